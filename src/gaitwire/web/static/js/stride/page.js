// The Stride desk: a walk that goes on while its settings are turned. Python makes every stride; this draws it.
import { typing } from "../shared/common.js";
import { post, remark, revision, settled } from "../shared/edits.js";
import { LiveLine } from "../live/line.js";
import { Player } from "../stage/player.js";
import { boxOf } from "../stage/shown.js";
import { Stage, svg } from "../stage/stage.js";
import { drawThumb } from "../stage/thumb.js";

const { puppet } = document.body.dataset;
const byId = (id) => document.getElementById(id);
const stage = new Stage(byId("stage"));
const player = new Player({ base: "", stage, onFrame, onState });
const line = puppet ? new LiveLine(stage, "stride", puppet, receive, false) : null;
const trails = svg("g", { class: "trails" }, stage.overlay);
const desk = { ref: document.body.dataset.document, changed: {}, travels: false, head: null, place: null, tile: [76, 80] };

const REST = 120; // ms

const base = () => `/stride/${desk.ref}`;

/** A walk is seen as its puppet is drawn: go to one that is drawn so, or say that there is none. */
function see(select) {
  if (select.value) { location.href = `${base()}?on=${select.value}`; return; }
  remark(`No puppet here that can walk is drawn ${select.selectedOptions[0].dataset.label}. Bring in such drawings; its Bench says from where a puppet is drawn.`, "error");
  for (const option of select.options) option.selected = option.defaultSelected;
}

// ── what is shown ──

async function start() {
  if (!line || !byId("stage-hint").hidden) return;
  const answer = await fetch(`${base()}/stage.json?on=${puppet}`);
  if (!answer.ok) { remark("This puppet could not be shown. Reload the page.", "error"); return; }
  desk.place = await answer.json();
  setScenery();
  stage.setParts(desk.place.parts);
  await stage.fetchArt(desk.place.parts);
  ask();
}

/** Ask for the walk as its settings stand now; the latest wins. While a hand moves, every other picture will do. */
function ask(coarse = false) {
  clearTimeout(desk.resting);
  if (!desk.place) return;
  line.send({ card: desk.ref, changed: desk.changed, travels: desk.travels, coarse });
  if (coarse) desk.resting = setTimeout(ask, REST);
}

function receive(head, frames) {
  if (head.error) { remark(head.error, "error"); return; }
  const share = player.all ? player.frame / player.all.count : 0;
  const other = desk.head?.travels !== desk.travels;
  desk.head = { ...head, travels: desk.travels };
  player.all = frames;
  player.info = { frames: frames.count, rate: head.rate, loop: true };
  trails.innerHTML = head.trails;
  if (other) fit();
  const wasPlaying = player.playing;
  player.seek(Math.min(frames.count - 1, Math.floor(share * frames.count)));
  stage.flush();
  if (!wasPlaying && !desk.begun) player.play();
  desk.begun = true;
  byId("said").textContent = head.said;
  if (head.panels) byId("panels").innerHTML = head.panels;
  onFrame(player.frame);
  clearTimeout(desk.drawing); // the stage first; the small pictures when the hand rests
  if (!head.coarse) desk.drawing = setTimeout(drawPoses, 0);
}

function setScenery() {
  const css = getComputedStyle(document.documentElement);
  const { floor } = desk.place;
  stage.scenery = { ground: { y: floor, color: css.getPropertyValue("--meadow") }, line: { y: floor, color: css.getPropertyValue("--ink"), width: 1.5, dash: [] } };
}

function fit() {
  const { all } = player, { parts, art } = stage, { floor, leg } = desk.place;
  const boxes = Array.from({ length: all.count }, (_, index) => boxOf(all, index, parts, art, () => true)).filter(Boolean);
  const box = [0, 1].map((n) => Math.min(...boxes.map((b) => b[n]))).concat([2, 3].map((n) => Math.max(...boxes.map((b) => b[n]))));
  const side = desk.travels ? 0 : 1.1 * leg;
  stage.fit([box[0] - side, box[1], box[2] + side, floor + 0.22 * leg], { left: 16, top: 14, right: 16, bottom: 8 });
}

stage.onDraw(() => {
  const { view } = stage;
  trails.setAttribute("transform", `translate(${view.x} ${view.y}) scale(${view.scale})`);
});

/** Where it has been a quarter and half a stride ago: shown when it stands still on its way over the stage. */
function ghosts(frame) {
  if (!desk.travels || player.playing) return [];
  const ago = [0.5, 0.25].map((share) => frame - Math.round(share * desk.head.pictures)).filter((index) => index >= 0);
  return ago.map((index, n) => ({ index, strength: 0.16 + 0.1 * n, of: [puppet], over: false, tint: null }));
}

/** The picture shown: the floor goes by, and a line stands on the curves. */
function onFrame(frame) {
  const { head } = desk;
  stage.ghosts = ghosts(frame);
  trails.querySelector(".floorprints")?.setAttribute("transform", `translate(${-head.way[frame]} 0)`);
  byId("frame").textContent = `frame ${((frame / head.pictures) * head.frames).toFixed(1)}`;
  const share = (((frame / head.pictures - head.begins) % 1) + 1) % 1;
  for (const now of document.querySelectorAll("#panels .now")) {
    const at = now.closest(".plots") ? share * now.ownerSVGElement.viewBox.baseVal.width : `${100 * share}%`;
    now.setAttribute("x1", at);
    now.setAttribute("x2", at);
  }
  const here = nearest(frame % head.pictures);
  for (const tile of document.querySelectorAll(".posetile")) tile.classList.toggle("here", tile === here);
}

function onState(playing) {
  byId("play").setAttribute("aria-pressed", String(playing));
  byId("play").setAttribute("aria-label", playing ? "Stand still" : "Walk");
  stage.ghosts = ghosts(player.frame);
  stage.redraw();
}

const tileOf = ({ name, side }) => document.querySelector(`.posetile[data-pose="${name}"][data-side="${side}"]`);

/** The tile of the pose that a picture shows, if it shows one. */
function nearest(picture) {
  const { poses, pictures } = desk.head;
  const pose = poses.find((one) => Math.round(one.picture) % pictures === picture);
  return pose ? tileOf(pose) : null;
}

function drawPoses() {
  const { all } = player, { parts, art } = stage, { poses, pictures } = desk.head, { floor } = desk.place;
  const shown = poses.map((pose) => ({ pose, index: Math.round(pose.picture) % pictures }));
  const boxes = shown.map(({ index }) => boxOf(all, index, parts, art, () => true));
  const wide = Math.max(...boxes.map(([x0, , x1]) => x1 - x0)) / 2, top = Math.min(...boxes.map(([, y0]) => y0));
  shown.forEach(({ pose, index }, n) => {
    const tile = tileOf(pose), canvas = tile.querySelector("canvas"), x = (boxes[n][0] + boxes[n][2]) / 2;
    tile.disabled = false;
    tile.dataset.picture = index;
    tile.querySelector("i").textContent = pose.frame.toFixed(1).replace(/\.0$/, "");
    drawThumb(canvas, desk.tile, [x - wide, top, x + wide, floor + 4], { frames: all, index, parts, art });
  });
}

// ── edits ──

/** Post a gesture on the card; whether it was taken. The card that has it now may be another one. */
async function edit(action, values = {}) {
  const headers = await post(`${base()}/${action}`, { on: puppet, ...values });
  const ref = headers?.get("Gw-Card");
  if (!ref) return headers !== null;
  if (ref !== desk.ref) history.replaceState(null, "", `/stride/${ref}?on=${puppet}`);
  desk.ref = ref;
  return true;
}

const BRINGS = { "card-file": "/stride/cards/bring", "fit-file": "/stride/cards/fit" };

const rangeOf = (name) => document.querySelector(`[data-slide="${name}"]`);

async function setField(field, value) {
  const taken = await (field === "name" ? edit("rename", { value }) : edit("set", { field, value }));
  delete desk.changed[field];
  ask();
  const box = document.querySelector(`[data-field="${field}"]`); // the panel may be a new one by now
  box.toggleAttribute("aria-invalid", !taken);
}

document.addEventListener("input", ({ target }) => {
  const name = target.dataset?.slide;
  if (!name) return;
  const text = Number(target.value).toFixed(target.dataset.decimals);
  byId(`set-${name}`).value = String(Number(text));
  desk.changed[name] = Number(text);
  ask(true);
});

document.addEventListener("change", ({ target }) => {
  if (target.dataset?.slide) setField(target.dataset.slide, byId(`set-${target.dataset.slide}`).value);
  else if (target.dataset?.field) setField(target.dataset.field, target.value);
  else if (target.id === "puppet") location.href = `${base()}?on=${target.value}`;
  else if (target.id === "view") see(target);
  else if (target.id in BRINGS && target.files.length) {
    if (target.id === "fit-file") remark("Looking for the closest walk…");
    post(BRINGS[target.id], { on: puppet }, [...target.files]);
    target.value = "";
  }
});

const ACTS = {
  copy: () => edit("copy"),
  "take-off": () => edit("take-off"),
  mix: () => edit("mix", { other: byId("mix-other").value, share: byId("mix-share").value }),
};

function setTravels(on) {
  desk.travels = on;
  byId("travels").setAttribute("aria-pressed", String(on));
  ask();
}

function setPaths(on) {
  byId("paths").setAttribute("aria-pressed", String(on));
  trails.classList.toggle("plain", !on);
}

const pressed = (id) => byId(id).getAttribute("aria-pressed") === "true";

document.addEventListener("click", (event) => {
  const act = event.target.closest?.("[data-act]");
  if (act) ACTS[act.dataset.act]();
  const ready = event.target.closest?.("[data-ready]");
  if (ready) edit("ready", { remedy: ready.dataset.ready });
  const tile = event.target.closest?.(".posetile");
  if (tile) { player.stop(); player.seek(Number(tile.dataset.picture)); }
  const card = event.target.closest?.("a[data-card]");
  if (card && puppet && !event.ctrlKey && !event.metaKey && !event.shiftKey) {
    event.preventDefault();
    location.href = `${card.getAttribute("href")}?on=${puppet}`;
  }
});

byId("play").addEventListener("click", () => player.toggle());
byId("travels").addEventListener("click", () => setTravels(!desk.travels));
byId("paths").addEventListener("click", () => setPaths(!pressed("paths")));
byId("fit").addEventListener("click", fit);
byId("put")?.addEventListener("submit", (event) => {
  event.preventDefault();
  const { scene, as_keys } = event.target.elements;
  edit("put", { puppet, scene: scene.value, as_keys: as_keys.value, travels: String(desk.travels) });
});

function step(by) {
  player.stop();
  const { count } = player.all;
  player.seek((player.frame + by + count) % count);
}

/** The next pose to either side, around the stride. */
function stepPose(by) {
  const { poses, pictures } = desk.head, here = player.frame % pictures;
  const at = poses.map(({ picture }) => Math.round(picture) % pictures).sort((a, b) => a - b);
  const next = by > 0 ? at.find((p) => p > here) ?? at[0] : at.findLast((p) => p < here) ?? at.at(-1);
  player.stop();
  player.seek(next);
}

const KEYS = {
  " ": () => player.toggle(), ",": () => step(-1), ".": () => step(1), "[": () => stepPose(-1), "]": () => stepPose(1),
  v: () => setTravels(!desk.travels), f: fit,
};

document.addEventListener("keydown", (event) => {
  const work = KEYS[event.key.length === 1 ? event.key.toLowerCase() : event.key];
  const onButton = event.key === " " && event.target.closest?.("button, summary, select, a");
  if (!work || typing(event) || onButton || event.ctrlKey || event.metaKey || event.altKey || !player.all) return;
  event.preventDefault();
  work();
});

/** Sliders answer to arrows in steps that suit their numbers. */
document.addEventListener("keydown", (event) => {
  const name = event.target.dataset?.slide;
  const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
  if (!name || !by) return;
  event.preventDefault();
  const range = rangeOf(name), size = (range.max - range.min) / 100, unit = 10 ** Math.round(Math.log10(size));
  range.value = Math.min(range.max, Math.max(range.min, Number(byId(`set-${name}`).value) + by * unit * (event.shiftKey ? 10 : 1)));
  range.dispatchEvent(new Event("input", { bubbles: true }));
  clearTimeout(desk.waiting);
  desk.waiting = setTimeout(() => range.dispatchEvent(new Event("change", { bubbles: true })), 400);
});

// A step back in a scene brings wires, which this page has not: its settings are asked for.
document.addEventListener("gw:changed", () => {
  const shown = byId("settings").dataset.revision, stands = byId("standing").dataset.revision;
  if (desk.ref.includes("~") && shown !== stands) window.htmx.ajax("GET", `${base()}/pieces`, { source: "#edits", swap: "none" });
  byId("crumb").textContent = document.querySelector("[data-field=name]").value;
  if (!Object.keys(desk.changed).length) ask();
});
document.addEventListener("gw:lamp", () => { if (desk.place) { setScenery(); stage.redraw(); } });
new ResizeObserver(([{ contentRect }]) => { // asked here, so that drawing need not wait for the page to be laid out
  desk.tile = [contentRect.width, contentRect.height];
  if (desk.head) drawPoses();
}).observe(document.querySelector(".posetile canvas"));

start();

window.gaitwire = {
  stage, player, line, desk, settled,
  get revision() { return revision(); },
  get calm() { return !line || line.asked === line.answered; },
};
