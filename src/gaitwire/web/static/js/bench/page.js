// The Bench: what is chosen, what is shown, the pointer and the keys. Its tools are in files of their own.
import { installActs } from "./acts.js";
import { installBoneTools } from "./tools.js";
import { installBodyMap } from "../stage/bodymap.js";
import { installBrush } from "./brushtool.js";
import { installDrawTool } from "./drawtool.js";
import { typing } from "../shared/common.js";
import { installCorrecting } from "./correctives.js";
import { post, remark, settled } from "../shared/edits.js";
import { Frames } from "../stage/frames.js";
import { latest } from "../shared/latest.js";
import { LiveLine } from "../live/line.js";
import { installLists } from "./lists.js";
import { installMending } from "./gaps.js";
import { installPinTool } from "./pintool.js";
import { installProbe } from "../stage/probe.js";
import { Stage, svg } from "../stage/stage.js";
import { Wires } from "../stage/bonewires.js";

const base = document.body.dataset.base;
const stage = new Stage(document.getElementById("stage"));
const wires = new Wires(stage);
const live = new LiveLine(stage, "puppet", document.body.dataset.document, onReply);
const chosen = { bones: new Set(), parts: new Set(), pins: new Set(), controls: new Set() };
const hints = svg("g", { class: "hints" }, stage.overlay);

/** What the tools share. */
const bench = {
  base, stage, wires, live, chosen, hints, tools: {}, gesture: null, model: null, rest: null,
  entry: null, standing: null, // the place of a control that is corrected; who is told of a puppet that stands elsewhere
  choose, chooseAll, showChosen, drawHints, label, load, setTool,
};
let tool = "pick";

// ── what is shown ──

let ticket = 0;

async function load() {
  const mine = ticket += 1;
  mending.stop();
  let info, frames;
  const at = bench.entry ? `?entry=${bench.entry}` : "";
  do { // the puppet may change between two answers: both must be of one state
    [info, frames] = await Promise.all([
      fetch(`${base}/stage.json${at}`).then((r) => (r.ok ? r.json() : null)),
      fetch(`${base}/frame.bin${at}`).then((r) => (r.ok ? r.arrayBuffer() : null)).then((buffer) => buffer && new Frames(buffer)),
    ]);
    if (mine !== ticket) return;
    if (!info || !frames) { correcting.stop(); return; } // the place that was corrected is gone
  } while (frames.stamp !== info.revision);
  await stage.fetchArt(info.parts);
  if (mine !== ticket) return;
  bench.model = info;
  bench.rest = frames;
  stage.setParts(info.parts);
  wires.setNodes(info.nodes);
  if (!stage.fitted) stage.fit(info.box, room());
  stage.box = info.box;
  stage.show(frames);
  setScenery();
  forget("parts", info.parts);
  forget("controls", info.controls);
  forget("bones", info.nodes.filter((node) => node?.kind === "bone"));
  forget("pins", info.nodes.filter((node) => node && node.kind !== "bone"));
  correcting.loaded();
  showChosen();
}

/** What is no longer there cannot be chosen. */
function forget(kind, entries) {
  const known = new Set(entries.map((entry) => entry.id));
  for (const id of [...chosen[kind]]) if (!known.has(id)) chosen[kind].delete(id);
}

function setScenery() {
  if (bench.model) stage.scenery = { line: { y: bench.model.base[1], color: ink(), width: 1.5, dash: [] } };
  stage.redraw();
}

const ink = () => getComputedStyle(document.documentElement).getPropertyValue("--ink");

function showChosen() {
  for (const row of document.querySelectorAll(".rowline")) {
    const on = chosen.bones.has(row.dataset.bone) || chosen.parts.has(row.dataset.part);
    row.classList.toggle("chosen", on);
    row.querySelector(".pick").setAttribute("aria-pressed", String(on));
    row.classList.toggle("away", map.alone !== null && row.dataset.bone !== undefined && !map.alone.has(row.dataset.bone));
  }
  wires.mark(new Set([...chosen.bones, ...chosen.pins]));
  map.mark(chosen.bones);
  card.ask();
  bench.heat.refresh();
  bench.tools.draw.shown();
  drawHints();
}

const card = latest(async () => {
  const shown = { ...chosen, entry: bench.entry ? [bench.entry] : [] };
  const query = Object.entries(shown).map(([kind, ids]) => `${kind}=${[...ids].join(",")}`).join("&");
  await window.htmx.ajax("GET", `${base}/card?${query}`, { target: "#card", source: "#card", swap: "innerMorph" });
  acts.cardShown();
  mending.cardShown();
});

function choose(kind, id, add) {
  correcting.rest();
  for (const other of Object.keys(chosen)) if (other !== kind) chosen[other].clear();
  if (!add) { chosen[kind].clear(); if (id) chosen[kind].add(id); }
  else if (chosen[kind].has(id)) chosen[kind].delete(id);
  else chosen[kind].add(id);
  showChosen();
  seek(id);
}

/** What was chosen elsewhere is brought into sight in its list. */
function seek(id) {
  document.querySelector(`.rowline[data-bone="${id}"], .rowline[data-part="${id}"]`)?.scrollIntoView({ block: "nearest" });
}

function chooseAll(kind, ids) {
  for (const other of Object.keys(chosen)) chosen[other].clear();
  chosen[kind] = new Set(ids);
  showChosen();
  seek([...ids][0]);
}

/** Drawn anew with every picture, as the stage may have moved: what a gesture shows comes last. */
function drawHints() {
  hints.replaceChildren();
  for (const id of chosen.parts) {
    const part = bench.model?.parts.find((p) => p.id === id);
    const drawing = part && stage.art.get(part.arts[0]);
    if (!drawing || !stage.frames) continue;
    const [x0, y0, x1, y1] = drawing.box, [a, b, c, d, e, f] = stage.frames.matrix(0, bench.model.parts.indexOf(part));
    const corners = [[x0, y0], [x1, y0], [x1, y1], [x0, y1]].map(([x, y]) => stage.toScreen(a * x + c * y + e, b * x + d * y + f));
    svg("polygon", { class: "outline-box", points: corners.map((corner) => corner.join(",")).join(" ") }, hints);
  }
  bench.tools[tool].draw?.();
  bench.gesture?.draw?.();
}

function label(x, y, text, anchor = "start") {
  svg("text", { class: "catch-label", x, y, "text-anchor": anchor }, hints).textContent = text;
}
stage.onDraw(drawHints);

// ── tools and the pointer on the stage ──

/** Room left round the puppet for what lies over the stage: the body map, the colours of the drawing tool. */
function room() {
  const mapped = !document.getElementById("mapbox").hidden;
  return { left: mapped ? 200 : 40, top: 64, right: 40, bottom: tool === "draw" ? 200 : 64 };
}

function refit() { if (bench.model && !stage.moved) stage.fit(bench.model.box, room()); }

function setTool(name) {
  bench.tools[tool].finish?.();
  tool = name;
  stage.host.dataset.tool = name;
  for (const button of document.querySelectorAll("[data-tool].tool")) button.setAttribute("aria-pressed", String(button.dataset.tool === name));
  refit();
  for (const strip of document.querySelectorAll("[data-options]")) strip.hidden = strip.dataset.options !== name;
  bench.tools.draw.shown();
  drawHints();
}

function onReply(head, frames) {
  if (head.error) { remark(head.error, "error"); return; }
  if (bench.gesture) bench.tools[tool].reply?.(head, frames);
  else bench.standing?.(head, frames);
}

function gripOf(event) {
  const target = event.target.closest?.("[data-grip]");
  const group = target?.closest("[data-bone]");
  return group ? { kind: target.dataset.grip, bone: group.dataset.bone } : null;
}

stage.host.addEventListener("pointerdown", (event) => {
  if (event.button !== 0) return;
  mending.stop();
  correcting.rest();
  stage.host.focus({ preventScroll: true });
  stage.host.setPointerCapture(event.pointerId);
  bench.tools[tool].down(event, stage.toStage(event), gripOf(event));
});
stage.host.addEventListener("pointermove", (event) => {
  const [x, y] = stage.toStage(event);
  document.getElementById("pointer").textContent = `${x.toFixed(0)}, ${y.toFixed(0)}`;
  if (bench.gesture) bench.tools[tool].move(event, [x, y]);
  else bench.tools[tool].hover?.(event, [x, y]);
});
stage.host.addEventListener("pointerup", async (event) => {
  if (!bench.gesture) return;
  const mine = bench.gesture;
  await bench.tools[tool].up(event, stage.toStage(event));
  if (bench.gesture === mine) bench.gesture = null;
  stage.redraw();
});
stage.host.addEventListener("pointercancel", giveUp);

/** Let go of what is being dragged, and keep nothing. */
function giveUp() {
  bench.gesture = null;
  live.drop();
  stage.show(bench.rest);
}

installBoneTools(bench);
installPinTool(bench);
installBrush(bench);
installDrawTool(bench);
const acts = installActs(bench);
const mending = installMending(bench);
const correcting = installCorrecting(bench);
const map = installBodyMap({
  host: document.getElementById("mapbox"),
  choose(ids, add) { chooseAll("bones", add ? [...chosen.bones, ...ids] : ids); },
  only(ids) { wires.shown = ids; stage.redraw(); },
});
installLists({ base, chosen, choose });

// ── the keys ──

async function nudge(dx, dy) {
  const pin = chosen.pins.size > 0;
  const item = wires.get([...(pin ? chosen.pins : chosen.bones)][0]);
  if (!item) return;
  await settled();
  post(`${base}/${pin ? "pins" : "bones"}/${item.node.id}/${pin ? "move" : "pivot"}`, { x: item.at[0] + dx, y: item.at[1] + dy });
}

/** Remove what is chosen; the drawing tool takes points and shapes before it lets go of a part. */
function remove() { if (!bench.tools[tool].remove?.()) acts.run("remove"); }

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const KEYS = {
  p: () => setTool("pick"), j: () => setTool("joint"), b: () => setTool("bone"), t: () => setTool("try"), i: () => setTool("pin"), h: () => setTool("brush"), d: () => setTool("draw"),
  F2: acts.rename, g: () => acts.run("group"), m: () => acts.run("mirror"), f: () => stage.fit(bench.model.box, room()),
  n: () => document.getElementById("names").click(), "/": () => document.getElementById("search").focus(),
  Delete: remove, Backspace: remove, Enter: () => bench.tools[tool].finish?.(),
  r: () => mending.play(),
  Escape: () => (mending.stop() ? null : !bench.gesture && correcting.stop() ? null : bench.gesture ? giveUp() : bench.tools[tool].busy ? bench.tools[tool].finish() : choose("parts", null, false)),
};

document.addEventListener("keydown", (event) => {
  if (typing(event) || event.ctrlKey || event.metaKey || event.defaultPrevented) return;
  if (event.key === " ") { stage.spaceDown = true; if (event.target === stage.host) event.preventDefault(); return; }
  if (event.key === "Enter" && event.target !== stage.host) return;
  if (ARROWS[event.key] && event.target === stage.host) {
    event.preventDefault();
    const [dx, dy] = ARROWS[event.key], by = event.shiftKey ? 10 : 1;
    nudge(dx * by, dy * by);
    return;
  }
  if (correcting.key(event.key.toLowerCase())) { event.preventDefault(); return; }
  const work = KEYS[event.key.length === 1 ? event.key.toLowerCase() : event.key];
  if (work) { event.preventDefault(); work(); }
});
document.addEventListener("keyup", (event) => { if (event.key === " ") stage.spaceDown = false; });

// ── the view ──

document.getElementById("fit").addEventListener("click", () => stage.fit(bench.model.box, room()));
document.getElementById("zoom-in").addEventListener("click", () => stage.zoom(1.25));
document.getElementById("zoom-out").addEventListener("click", () => stage.zoom(0.8));
stage.onDraw(() => { document.getElementById("zoom").textContent = `${Math.round(stage.view.scale * 100)} %`; });
function press(id, work) {
  document.getElementById(id).addEventListener("click", (event) => {
    const on = event.currentTarget.getAttribute("aria-pressed") !== "true";
    event.currentTarget.setAttribute("aria-pressed", String(work(on) ?? on));
  });
}
press("names", (on) => { stage.host.classList.toggle("named", on); });
press("wires", (on) => { wires.visible = on; stage.redraw(); });
press("map", (on) => { document.getElementById("mapbox").hidden = !on; refit(); });
press("only", (on) => {
  const alone = map.toggleOnly(on, chosen.bones);
  if (on && !alone) remark("Choose a bone or a region first.");
  showChosen();
  return alone;
});
document.addEventListener("click", (event) => {
  const pressed = event.target.closest?.(".tool[data-tool]");
  if (pressed) setTool(pressed.dataset.tool);
});

document.addEventListener("gw:changed", load);
document.addEventListener("gw:lamp", setScenery);
load();

installProbe(stage, wires, {
  get revision() { return bench.model?.revision; },
  get calm() { return !card.busy; },
  chosen, live, settled,
});
