// The Floor: posing on the stage, beads on the wires, playing.
import { ask } from "../shared/asking.js";
import { installBeads } from "./beadacts.js";
import { BoxTool } from "./boxtool.js";
import { installBraces } from "./braces.js";
import { installBringIn } from "./bringin.js";
import { installCamera } from "./camera.js";
import { installCard, instanceOf } from "./cardedits.js";
import { installChart } from "./chart.js";
import { installClips } from "./clips.js";
import { installCurve } from "./easing.js";
import { installDialling } from "./dialling.js";
import { current, post, settled } from "../shared/edits.js";
import { installDriving } from "./driving.js";
import { installFloorMap } from "./map.js";
import { installKeys } from "./keys.js";
import { latest } from "../shared/latest.js";
import { KeyTimes } from "./keytimes.js";
import { guideAt } from "../stage/guides.js";
import { installGuides } from "./guideacts.js";
import { installHolding } from "./holding.js";
import { installLinkBars } from "./linkbars.js";
import { installLinks } from "./links.js";
import { installPanels } from "./panels.js";
import { installPhrasing } from "./phrasing.js";
import { installPlaybar } from "./playbar.js";
import { installOnion } from "./onion.js";
import { Player } from "../stage/player.js";
import { installMoves } from "./moves.js";
import { installWalking } from "./walking.js";
import { installPoses } from "./poseacts.js";
import { PoseStrip } from "./posestrip.js";
import { Poser } from "./posing.js";
import { installSounds } from "./sounds.js";
import { installSplitter } from "../stage/splitter.js";
import { installProbe } from "../stage/probe.js";
import { Rider } from "./riding.js";
import { Stage } from "../stage/stage.js";
import { Timeline } from "./timeline.js";
import { installWalkPrints } from "./walkprints.js";
import { installWireFind } from "./wirefind.js";
import { Trails } from "./trails.js";
import { Wires } from "../stage/bonewires.js";

const base = document.body.dataset.base;
const stage = new Stage(document.getElementById("stage"));
const wires = new Wires(stage);
const chosen = new Map();
let info = null, drawing = 0;
let body = ""; // mark of what the stage is made of
let pose = ""; // the chosen pose's id
const nodeKey = ([instance, owner]) => `${instance}:${owner}`, nodes = () => [...chosen.values()];

const timeline = new Timeline({
  onSeek: (frame) => seek(frame),
  onChoose: () => showCard(),
  onMove: (by) => beads.slide(by),
  onZoom: () => showPoses(),
  onSpan: () => showCard(),
  onMarker: (id, frame) => post(`${base}/markers/${id}/move`, { frame }),
});
const player = new Player({ base, stage, onFrame, onState });
const keyTimes = new KeyTimes(document.getElementById("wires").parentElement);
const poses = new PoseStrip({ stage, timeline, player, onPick: pickPose });
const box = new BoxTool({ stage, wires, nodes, hangers, player });
const rider = new Rider({ base, player });
const bracing = installBraces({ stage, wires, limbs: () => info?.limbs ?? [], node: (key) => wires.byId?.get(key)?.node, nodes, subject, player, bearings: () => info?.bearings ?? [] });
const poser = new Poser({ stage, rider, braces: bracing, wires, nodes, box, hangers, choose, parentOf, limbs: () => info.limbs, frame: () => player.frame, commit, restore: () => player.show(), stop: () => player.stop(), seek, blocking: () => playbar.blocks, looking: () => player.lens });
rider.installSettings(poser.live);
installDialling({ base, player, live: poser.live, rider, commit });
const first = () => info?.first ?? 0;
const posing = installPoses({ base, strip: poses, player, subject, nodes, choosePose, posed: () => pose });
const holding = installHolding({ base, nodes, shownNodes, player, timeline, first, toScene });
const clips = installClips({ base, subject, nodes, beads: () => timeline.picked.list, blocks: () => playbar.blocks, player });
const onion = installOnion({ stage, player, instances: () => info?.instances ?? [], poseTimes: () => poses.times, seek });
const guiding = installGuides({ base, stage, guides: () => info?.guides ?? [] });
const linking = installLinks({ base, stage, player, live: poser.live, nodes, subject, plants: () => info?.plants ?? [], choose });
installLinkBars({ timeline, onMove: linking.move, onPick: (node, frame) => { choose([node]); seek(frame); } });
const walkPrints = installWalkPrints({ base, stage, player });
const panels = installPanels({ base, player, nodes, subject, choose, seek, mirror: onion.mirror });
const trails = new Trails({ stage, wires, player, nodes, keyTimes: (instance, owner) => keyTimes.of(instance, owner) });
const filming = installCamera({ base, stage, player, wires, live: poser.live, info: () => info, nodes, choose, changed: load });
const sounding = installSounds({ base, player, info: () => info, timeline, showCard });
const playbar = installPlaybar({ player, first, changed: load });
const finding = installWireFind(timeline);
const bodymap = installFloorMap({ base, choose, subject, keyedAt: (instance) => keyTimes.at(instance, player.frame) });
const beads = installBeads({ base, timeline, player, nodes });
installChart((index, share) => beads.edit("tick", { index, share }));
const drawCurve = installCurve(([x1, y1, x2, y2]) => beads.edit("shape", { x1, y1, x2, y2 }));
installBringIn({ base, stage, choose });
installCard({ base, player, nodes, posing, blocks: () => playbar.blocks, host: stage.host });

// ── what is shown ──

async function load() {
  if (!(await player.load(fetchInfo, present))) return;
  showPoses();
  showChosen();
  onion.renew();
  panels.tell("scene");
  walkPrints.renew(info.walks);
}

/** The state of the scene; of what its stage is made of only if that has changed. */
async function fetchInfo() {
  const fresh = await (await ask(`${base}/stage.json?body=${info?.body ?? ""}`)).json();
  if (fresh.parts) await stage.fetchArt(fresh.parts);
  else Object.assign(fresh, { parts: info.parts, nodes: info.nodes, limbs: info.limbs });
  return fresh;
}

/** A new state of the scene, with its first frame at hand: everything is set in one go. */
function present(fresh) {
  info = fresh;
  if (info.body !== body) {
    body = info.body;
    stage.setParts(info.parts);
    wires.setNodes(info.nodes);
  }
  document.getElementById("crumb").textContent = document.querySelector("#card [name=name][data-set=scene]")?.value ?? document.getElementById("crumb").textContent;
  document.getElementById("stage-hint").hidden = info.instances.length > 0;
  if (!stage.fitted) fit();
  setScenery();
  timeline.restore();
  finding.apply();
  playbar.paint();
  filming.renew();
  sounding.renew();
  takePicked();
  if (pose && !info.instances.some((one) => [...one.poses.map(({ id }) => id), ...one.found.map((found) => poses.foundId(found, one))].includes(pose))) choosePose("");
  bodymap.fetch().then(bracing.paint);
  clips.fetch();
}

/** With bones, all that hangs from them, at any depth. */
function hangers(list) {
  const wanted = new Map(list.map((node) => [nodeKey(node), node]));
  for (const node of info.nodes.filter(Boolean)) { // parents stand before their children
    if (wanted.has(`${node.instance}:${node.parent}`)) wanted.set(`${node.instance}:${node.id}`, [node.instance, node.id]);
  }
  return [...wanted.values()];
}

/** Every wire that is there and not locked, seats among them. */
function shownNodes() {
  const rows = document.querySelectorAll(".wirerow.bone:not(.locked):not(.away), .seat .wirerow:not(.locked):not(.away)");
  return [...rows].map((row) => [row.dataset.instance, row.dataset.owner]);
}

/** Nothing chosen: the card is about the scene. */
function toScene() { timeline.picked.set([]); choose([]); return showCard(); }

function choosePose(id) {
  pose = id;
  poses.choose(id);
  if (id) { chosen.clear(); timeline.picked.set([]); sounding.clear(); }
  showChosen();
}

function pickPose(id, frame) { seek(frame); choosePose(id); }
function parentOf(instance, owner) { return info.nodes.find((node) => node?.instance === instance && node.id === owner)?.parent; }

function fit() { stage.fit([0, 0, ...info.size], { left: 20, top: 16, right: 20, bottom: 16 }); }

function seek(frame) { player.stop(); player.seek(frame); }

/** Whose poses the strip shows: the puppet of what is chosen, else the one in front. */
function subject() {
  const chosenOne = nodes().map(([instance]) => instance).find((instance) => instance !== info?.camera?.instance);
  return info?.instances.find((one) => (chosenOne ? one.instance === chosenOne : !one.aside)) ?? null;
}

function showPoses() { clearTimeout(drawing); drawing = setTimeout(() => player.all && poses.show(subject()), 30); } // else once they are here

function takePicked() {
  const place = document.getElementById("picked");
  if (place.dataset.beads) timeline.picked.set(JSON.parse(place.dataset.beads));
  place.dataset.beads = "";
}

/** What lies beyond the picture is seen through paper; the floor line is for the eye, not for the file. */
function setScenery() {
  if (!info) return;
  const veil = getComputedStyle(document.documentElement).getPropertyValue(player.lens ? "--paper" : "--veil");
  const line = info.ground === null || player.lens ? null : { y: info.ground, color: "#2e2a2566", width: 1, dash: [6, 5] };
  const backdrop = info.instances.filter((one) => one.backdrop).map(({ instance }) => instance);
  const faint = Object.fromEntries(info.instances.filter((one) => one.faint !== null).map(({ instance, faint: strength }) => [instance, strength]));
  const grid = { size: info.grid, color: "#2e2a2530" };
  const guides = guiding.live.filter((guide) => !guide.hidden && !player.lens).map((guide) => guideAt(guide, player.frame));
  stage.scenery = { page: { size: info.size, color: info.background }, line, veil, grid, guides, backdrop, faint };
  stage.redraw();
}

function onFrame(frame) {
  timeline.setFrame(frame);
  poses.at(frame);
  panels.now();
  if (info?.guides.length) setScenery();
  const shown = frame + (info?.first ?? 0);
  document.getElementById("frame").textContent = `frame ${Number.isInteger(shown) ? shown : shown.toFixed(2)}`;
  document.getElementById("seconds").textContent = `${(frame / info.rate).toFixed(2)} of ${(info.frames / info.rate).toFixed(2)} s`;
  if (!player.playing) { later(); bodymap.beads(); onion.renew(); panels.tell("frame"); }
}

let waiting = 0;
function later() { clearTimeout(waiting); waiting = setTimeout(showCard, 120); }

function onState(playing) {
  const button = document.getElementById("play");
  button.setAttribute("aria-pressed", String(playing));
  button.setAttribute("aria-label", playing ? "Stop" : "Play");
  wires.resting = playing;
  onion.renew();
  panels.tell("frame");
  if (!playing) later();
}

function showChosen() {
  wires.mark(new Set(nodes().map(nodeKey)));
  bodymap.mark(new Set(nodes().filter(([instance]) => instance === bodymap.whose()).map(([, owner]) => owner)));
  const picked = (row) => chosen.has(`${row.dataset.instance}:${row.dataset.owner}`);
  for (const row of document.querySelectorAll(".wirerow")) {
    const members = row.dataset.owner.startsWith("@") ? row.closest(".tl-group").querySelectorAll(".bone") : [row];
    row.classList.toggle("chosen", [...members].some(picked));
  }
  panels.tell("chosen");
  stage.redraw(); // trails and the box are about what is chosen
  showCard();
}

const card = latest(fetchCard);

function showCard() {
  clearTimeout(waiting);
  waiting = 0;
  return card.ask();
}

async function fetchCard() {
  const values = { frame: player.frame, nodes: JSON.stringify(nodes()), beads: JSON.stringify(timeline.picked.list), pose, sound: sounding.picked };
  if (timeline.span) [values.since, values.until] = timeline.span;
  await window.htmx.ajax("POST", `${base}/card`, { target: "#card", source: "#card", swap: "innerMorph", values });
  drawCurve();
  guiding.unfold();
}

function choose(list, add = false) {
  sounding.clear();
  if (!add) chosen.clear();
  for (const node of list) {
    if (add && chosen.has(nodeKey(node))) chosen.delete(nodeKey(node));
    else chosen.set(nodeKey(node), node);
  }
  if (list.length && timeline.picked.size) timeline.picked.set([]);
  if (pose) { pose = ""; poses.choose(""); }
  showChosen();
  const whose = subject();
  if (poses.subject?.instance !== whose?.instance) showPoses();
  const tab = document.getElementById("to-bench");
  if (tab && whose?.bench) tab.href = whose.bench;
  bodymap.fetch().then(bracing.paint);
  clips.fetch();
}

// ── edits ──

function commit(frame, values) {
  return post(`${base}/values`, { frame, values: JSON.stringify(values), blocking: String(playbar.blocks) });
}

const ACTS = {
  "go-to": ({ dataset }) => seek(Number(dataset.frame)),
  "key-pose"() {
    if (chosen.size) post(`${base}/key-pose`, { frame: player.frame, nodes: JSON.stringify(nodes()) });
    else posing.keyWhole();
  },
  delete() {
    if (pose && !timeline.picked.size) posing.acts["pose-delete"]();
    else beads.edit("delete");
  },
  ...beads.acts,
  ...posing.acts,
  ...clips.acts,
  ...holding.acts,
  ...guiding.acts,
  ...linking.acts,
  ...installWalking({ base, nodes, player }).acts, ...installDriving({ base, nodes }).acts, ...installMoves({ base, nodes, player }).acts, ...filming.acts, ...sounding.acts,
  ...installPhrasing({ base, nodes, beads: () => timeline.picked.list, player, choose }).acts,
  "back-on-joints": () => post(`${base}/back-on-joints`, { frame: player.frame, nodes: JSON.stringify(nodes()) }),
  depth(button) { post(`${base}/puppets/${instanceOf(button)}/depth/${button.dataset.steps}`); },
  "take-out"(button) { post(`${base}/puppets/${instanceOf(button)}/remove`); chosen.clear(); },
  "choose-seat"(button) { choose([[button.dataset.instance, button.dataset.instance]]); },
};

document.addEventListener("click", (event) => {
  const button = event.target.closest?.("[data-act]");
  if (button) ACTS[button.dataset.act](button, event);
  const tool = event.target.closest?.(".tool[data-tool]");
  if (tool) poser.setTool(tool.dataset.tool);
  const pick = event.target.closest?.(".wirerow .pick");
  if (pick) pickRow(pick.closest(".wirerow"), event.shiftKey || event.ctrlKey || event.metaKey);
});

function pickRow(row, add) {
  const { instance, owner } = row.dataset;
  if (!owner.startsWith("@")) { choose([[instance, owner]], add); return; }
  const members = row.closest(".tl-group").querySelectorAll(".wirerow.bone");
  choose([...members].map((member) => [member.dataset.instance, member.dataset.owner]), add);
}

// ── keys ──

function nextBead(direction) {
  const owners = new Set(nodes().map(([, owner]) => owner));
  const counts = keyTimes.counts(owners);
  const times = counts.map(([time]) => time).filter((time) => time < info.frames);
  if (!times.length) return;
  const here = player.frame;
  const next = direction > 0 ? times.find((t) => t > here + 1e-6) ?? times[0] : times.findLast((t) => t < here - 1e-6) ?? times.at(-1);
  seek(next);
}

function step(by) {
  const next = player.frame + by;
  seek(info.loop ? (next + info.frames) % info.frames : next);
}

/** A pose on or back, and its card; what is chosen stays so from pose to pose. */
function nextPose(direction) {
  const to = poses.next(direction, player.frame);
  if (to && chosen.size) seek(to.time);
  else if (to) pickPose(to.key, to.time);
}

/** Shift what is chosen by screen-wise steps of a pixel of the stage. */
function nudge([dx, dy], by) {
  if (chosen.size) post(`${base}/nudge`, { frame: player.frame, nodes: JSON.stringify(nodes()), dx: dx * by, dy: dy * by });
}

const zoom = (factor) => timeline.zoomTo(timeline.ppf * factor);

installKeys({ ready: () => info !== null, host: stage.host, nudge }, {
  ...panels.keys,
  "Space": () => player.toggle(), ",": () => step(-1), ".": () => step(1),
  "[": () => nextPose(-1), "]": () => nextPose(1), "{": () => nextBead(-1), "}": () => nextBead(1),
  PageUp: () => timeline.page(-1), PageDown: () => timeline.page(1), Home: () => player.seek(0), End: () => player.seek(info.frames - 1),
  t: () => poser.setTool("turn"), l: () => poser.setTool("pull"), s: () => poser.setTool("shift"),
  e: () => poser.setTool("stretch"), "Shift+E": () => poser.setTool("squash"), w: () => poser.setTool("widen"), k: () => poser.setTool("skew"), c: () => poser.setTool("curl"), q: () => poser.setTool("box"),
  p: ACTS["key-pose"], "Shift+P": () => posing.keyWhole(), d: ACTS.copy, a: ACTS["their-beads"], Delete: ACTS.delete, Backspace: ACTS.delete,
  x: () => onion.flip(), "Shift+X": () => onion.markFlip(), o: () => onion.toggle(), "Shift+B": bracing.toggle, "Shift+R": () => rider.toggle(), "Shift+L": () => filming.toggle(), j: () => trails.toggle(), u: () => guiding.acts.rulers(), y: () => holding.stay(), n: linking.acts.plant, "Shift+N": linking.acts.lift, i: linking.acts.hitch, v: linking.acts.bear, "Shift+V": linking.acts["bear-root"], m: () => holding.marker(), b: () => playbar.blocking(), "Alt+KeyB": () => playbar.blocking(true), r: () => playbar.toggle(),
  "Alt+BracketLeft": playbar.from, "Alt+BracketRight": playbar.to,
  "Alt+ArrowLeft": () => beads.slide(-1), "Alt+ArrowRight": () => beads.slide(1), "Shift+Alt+ArrowLeft": () => beads.slide(-5), "Shift+Alt+ArrowRight": () => beads.slide(5),
  Escape: () => { timeline.span = null; toScene(); }, h: () => document.getElementById("wires-shown").click(), f: fit,
  "+": () => zoom(1.3), "=": () => zoom(1.3), "-": () => zoom(1 / 1.3),
});

document.getElementById("play").addEventListener("click", () => player.toggle());
document.getElementById("fit").addEventListener("click", fit);
document.getElementById("ride").addEventListener("click", () => rider.toggle());
document.getElementById("wires-shown").addEventListener("click", (event) => {
  wires.visible = !wires.visible;
  event.currentTarget.setAttribute("aria-pressed", String(wires.visible));
  stage.redraw();
});

stage.onDraw(() => { document.getElementById("zoom").textContent = `${Math.round(stage.view.scale * 100)} %`; });
installSplitter(document.getElementById("splitter"), document.getElementById("floor"));
document.addEventListener("gw:changing", () => player.askAhead(fetchInfo));
document.addEventListener("gw:changed", load);
document.addEventListener("gw:lamp", () => { setScenery(); onion.renew(); });
load();

installProbe(stage, wires, {
  get frame() { return player.frame; },
  get revision() { return info?.revision; },
  get calm() { return current() && waiting === 0 && !card.busy && player.all !== null && !player.loading; },
  /** The first bone that can be posed. */
  get index0() {
    const aside = new Set(info.instances.filter((one) => one.aside).map(({ instance }) => instance));
    return info.nodes.findIndex((node) => node?.kind === "bone" && !node.locked && !aside.has(node.instance));
  },
  get bone0() { return info.nodes[this.index0].id; },
  edit(frame, value) { const node = info.nodes[this.index0]; return commit(frame, [[node.instance, node.id, "turn", value]]); },
  chosen, timeline, player, settled, live: poser.live, ear: sounding.ear,
});
