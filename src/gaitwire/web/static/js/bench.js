// The Bench: picking, joints, bones drawn and tried; lists that can be dragged.
import { typing } from "./common.js";
import { post, remark, settled } from "./edits.js";
import { Frames } from "./frames.js";
import { LiveLine } from "./liveline.js";
import { installLists } from "./lists.js";
import { installProbe } from "./probe.js";
import { Stage, svg } from "./stage.js";
import { Wires } from "./wires.js";

const base = document.body.dataset.base;
const stage = new Stage(document.getElementById("stage"));
const wires = new Wires(stage);
const live = new LiveLine(stage, "puppet", document.body.dataset.document, onReply);
const chosen = { bones: new Set(), parts: new Set() };
const hints = svg("g", { class: "hints" }, stage.overlay);
let tool = "pick";
let gesture = null;
let rest = null;
let model = null;
let asking = 0;

// ── what is shown ──

let ticket = 0;

async function load() {
  const mine = ticket += 1;
  let info, frames;
  do { // the puppet may change between two answers: both must be of one state
    [info, frames] = await Promise.all([
      fetch(`${base}/stage.json`).then((r) => r.json()),
      fetch(`${base}/frame.bin`).then((r) => r.arrayBuffer()).then((buffer) => new Frames(buffer)),
    ]);
    if (mine !== ticket) return;
  } while (frames.stamp !== info.revision);
  await stage.fetchArt(info.parts);
  if (mine !== ticket) return;
  model = info;
  rest = frames;
  stage.setParts(info.parts);
  wires.setNodes(info.nodes);
  if (!stage.fitted) stage.fit(info.box);
  stage.box = info.box;
  stage.show(rest);
  setScenery();
  const bones = new Set(info.nodes.filter(Boolean).map((n) => n.id));
  const parts = new Set(info.parts.map((p) => p.id));
  for (const id of [...chosen.bones]) if (!bones.has(id)) chosen.bones.delete(id);
  for (const id of [...chosen.parts]) if (!parts.has(id)) chosen.parts.delete(id);
  showChosen();
}

function setScenery() {
  if (model) stage.scenery = { line: { y: model.base[1], color: ink(), width: 1.5, dash: [] } };
  stage.redraw();
}

const ink = () => getComputedStyle(document.documentElement).getPropertyValue("--ink");

function showChosen() {
  for (const row of document.querySelectorAll(".rowline")) {
    const on = chosen.bones.has(row.dataset.bone) || chosen.parts.has(row.dataset.part);
    row.classList.toggle("chosen", on);
    row.querySelector(".pick").setAttribute("aria-pressed", String(on));
  }
  wires.mark(chosen.bones);
  const query = `bones=${[...chosen.bones].join(",")}&parts=${[...chosen.parts].join(",")}`;
  asking += 1;
  window.htmx.ajax("GET", `${base}/card?${query}`, { target: "#card", swap: "innerMorph" }).finally(() => { asking -= 1; });
  drawHints();
}

function choose(kind, id, add) {
  const other = kind === "bones" ? "parts" : "bones";
  chosen[other].clear();
  if (!add) { chosen[kind].clear(); if (id) chosen[kind].add(id); }
  else if (chosen[kind].has(id)) chosen[kind].delete(id);
  else chosen[kind].add(id);
  showChosen();
}

/** Drawn anew with every picture, as the stage may have moved: what a gesture shows comes last. */
function drawHints() {
  hints.replaceChildren();
  for (const id of chosen.parts) {
    const part = model?.parts.find((p) => p.id === id);
    const drawing = part && stage.art.get(part.arts[0]);
    if (!drawing) continue;
    const [x0, y0, x1, y1] = drawing.box;
    const [left, top] = stage.toScreen(x0, y0), [right, bottom] = stage.toScreen(x1, y1);
    svg("rect", { class: "outline-box", x: left, y: top, width: right - left, height: bottom - top, rx: 3 }, hints);
  }
  gesture?.draw?.();
}

function label(x, y, text, anchor = "start") {
  svg("text", { class: "catch-label", x, y, "text-anchor": anchor }, hints).textContent = text;
}
stage.onDraw(drawHints);

// ── tools ──

function setTool(name) {
  tool = name;
  stage.host.dataset.tool = name;
  for (const button of document.querySelectorAll("[data-tool].tool")) button.setAttribute("aria-pressed", String(button.dataset.tool === name));
}

const TOOLS = {
  pick: {
    down(event, [x, y], grip) {
      if (grip) { choose("bones", grip.bone, event.shiftKey); return; }
      const part = stage.partAt(x, y);
      if (part) choose("parts", part.id, event.shiftKey);
      else gesture = { kind: "lasso", from: [x, y], to: [x, y], add: event.shiftKey, draw: drawLasso };
    },
    move(event, point) { gesture.to = point; drawHints(); },
    up() { lassoed(gesture); },
  },
  joint: {
    down(event, point, grip) {
      if (!grip || grip.kind === "body") { TOOLS.pick.down(event, point, grip); return; }
      if (!chosen.bones.has(grip.bone)) choose("bones", grip.bone, false);
      const item = wires.get(grip.bone);
      if (item.node.locked) { remark(`“${item.node.name}” is locked. Unlock it first.`, "error"); return; }
      gesture = { kind: grip.kind, bone: grip.bone, item, at: null, fixed: grip.kind === "tip" ? item.at : item.end };
    },
    move(event, [x, y]) {
      live.send({ kind: "snap", x, y, free: event.altKey, reach: 10 / stage.view.scale, nodes: [["", gesture.bone]] });
    },
    async up() {
      await live.settled();
      if (gesture?.at) await post(`${base}/bones/${gesture.bone}/${gesture.kind === "tip" ? "tip" : "pivot"}`, { x: gesture.at[0], y: gesture.at[1] });
    },
  },
  bone: {
    down(event, [x, y], grip) {
      const parent = grip?.bone ?? [...chosen.bones][0] ?? "";
      const start = grip ? (grip.kind === "tip" ? wires.get(grip.bone).end : wires.get(grip.bone).at) : [x, y];
      gesture = { kind: "bone", start, end: null, parent };
    },
    move(event, [x, y]) {
      gesture.end = [x, y];
      gesture.draw = drawNewBone;
      drawHints();
    },
    async up() {
      const { start, end, parent } = gesture;
      if (!end || Math.hypot(end[0] - start[0], end[1] - start[1]) * stage.view.scale < 6) return;
      const headers = await post(`${base}/bones/add`, { x: start[0], y: start[1], tip_x: end[0], tip_y: end[1], parent });
      if (headers) choose("bones", headers.get("Gw-Made"), false);
    },
  },
  try: {
    down(event, [x, y], grip) {
      const bone = grip?.bone ?? stage.partAt(x, y)?.bone;
      if (!bone) { choose("parts", null, false); return; }
      if (!chosen.bones.has(bone)) choose("bones", bone, false);
      gesture = { kind: "try", bone, from: [x, y], began: performance.now() | 0 };
    },
    move(event, [x, y]) {
      const nodes = [[document.body.dataset.document, gesture.bone]];
      live.send({ kind: "pose", gesture: "turn", x, y, from_x: gesture.from[0], from_y: gesture.from[1], nodes, began: gesture.began });
    },
    async up() { await live.settled(); stage.show(rest); },
  },
};

/** Parts that lie whole within a box drawn on the stage; a click on nothing chooses nothing. */
function lassoed({ from, to, add }) {
  const [x0, x1] = [from[0], to[0]].sort((a, b) => a - b), [y0, y1] = [from[1], to[1]].sort((a, b) => a - b);
  const inside = model.parts.filter((part) => {
    const [left, top, right, bottom] = stage.art.get(part.arts[0]).box;
    return !part.locked && left >= x0 && right <= x1 && top >= y0 && bottom <= y1;
  });
  if (!add) { chosen.parts.clear(); chosen.bones.clear(); }
  for (const part of inside) chosen.parts.add(part.id);
  showChosen();
}

function drawLasso() {
  const [ax, ay] = stage.toScreen(...gesture.from), [bx, by] = stage.toScreen(...gesture.to);
  svg("rect", { class: "lasso", x: Math.min(ax, bx), y: Math.min(ay, by), width: Math.abs(bx - ax), height: Math.abs(by - ay) }, hints);
}

function onReply(head, frames) {
  if (head.error) { remark(head.error, "error"); return; }
  if (frames && gesture?.kind === "try") {
    gesture.angle = head.values[0][3];
    gesture.draw = drawAngle;
    stage.follow(frames);
  } else if (gesture && "snap" in head) {
    gesture.at = [head.x, head.y];
    gesture.snap = head.snap;
    gesture.draw = drawMovedJoint;
    drawHints();
  }
}

function drawMovedJoint() {
  const { item, kind, at, fixed, snap } = gesture;
  if (kind === "tip") wires.draw(item, fixed, at);
  else wires.draw(item, at, fixed);
  if (!snap) return;
  const [x, y] = stage.toScreen(...at);
  svg("circle", { class: "catch", cx: x, cy: y, r: 12 }, hints);
  label(x + 16, y + 4, snap);
}

function drawNewBone() {
  const [ax, ay] = stage.toScreen(...gesture.start), [bx, by] = stage.toScreen(...gesture.end);
  const wire = svg("g", { class: "wire chosen" }, hints);
  svg("path", { class: "core", d: `M${ax} ${ay}L${bx} ${by}` }, wire);
  svg("circle", { class: "collar", cx: ax, cy: ay, r: 7 }, wire);
  svg("circle", { class: "tip", cx: bx, cy: by, r: 4 }, wire);
}

function drawAngle() {
  const item = wires.get(gesture.bone);
  if (!item) return;
  const [x, y] = stage.toScreen(...item.at);
  label(x - 12, y - 16, `${gesture.angle.toFixed(1)}°`, "end");
}

// ── the pointer on the stage ──

function gripOf(event) {
  const target = event.target.closest?.("[data-grip]");
  const group = target?.closest("[data-bone]");
  return group ? { kind: target.dataset.grip, bone: group.dataset.bone } : null;
}

stage.host.addEventListener("pointerdown", (event) => {
  if (event.button !== 0) return;
  stage.host.focus({ preventScroll: true });
  stage.host.setPointerCapture(event.pointerId);
  TOOLS[tool].down(event, stage.toStage(event), gripOf(event));
});
stage.host.addEventListener("pointermove", (event) => {
  const [x, y] = stage.toStage(event);
  document.getElementById("pointer").textContent = `${x.toFixed(0)}, ${y.toFixed(0)}`;
  if (gesture) TOOLS[tool].move(event, [x, y]);
});
stage.host.addEventListener("pointerup", async (event) => {
  if (!gesture) return;
  const mine = gesture;
  await TOOLS[tool].up(event, stage.toStage(event));
  if (gesture === mine) gesture = null;
  stage.redraw();
});
stage.host.addEventListener("pointercancel", giveUp);

/** Let go of what is being dragged, and keep nothing. */
function giveUp() {
  gesture = null;
  live.drop();
  stage.show(rest);
}

// ── the card, the lists, the keys ──

function fieldValue(input) { return input.type === "checkbox" ? String(input.checked) : input.value; }

document.getElementById("card").addEventListener("change", (event) => {
  const input = event.target;
  const target = input.closest("[data-target]")?.dataset.target;
  if (!target || (input.value === "" && input.type === "number")) return;
  if (target === "puppet") post(`${base}/puppet`, { [input.name]: input.value });
  else post(`${base}/${target}/set`, { ids: [...chosen[target]].join(","), field: input.name, value: fieldValue(input) });
});

/** After an edit that made parts: those are chosen. */
function chooseParts(headers) {
  if (!headers) return;
  chosen.bones.clear();
  chosen.parts = new Set(headers.get("Gw-Made").split(","));
  showChosen();
}

const ACTS = {
  async group() {
    const parts = model.parts.filter((part) => chosen.parts.has(part.id));
    const ids = chosen.bones.size ? [...chosen.bones] : [...new Set(parts.map((part) => part.bone))];
    if (!ids.length) { remark("Choose the bones or parts to group first.", "error"); return; }
    const headers = await post(`${base}/bones/group`, { ids: ids.join(",") });
    if (headers) choose("bones", headers.get("Gw-Made"), false);
  },
  async child() {
    const item = wires.get([...chosen.bones][0]);
    const [x, y] = item.end ?? item.at;
    const headers = await post(`${base}/bones/add`, { x, y, parent: item.node.id, name: `${item.node.name} below` });
    if (headers) choose("bones", headers.get("Gw-Made"), false);
  },
  remove() {
    const kind = chosen.bones.size ? "bones" : "parts";
    if (chosen[kind].size) post(`${base}/${kind}/remove`, { ids: [...chosen[kind]].join(",") });
  },
  order(values) { post(`${base}/parts/order`, { ids: [...chosen.parts].join(","), ...values }); },
  forward() { ACTS.order({ steps: 1 }); },
  backward() { ACTS.order({ steps: -1 }); },
  front() { ACTS.order({ steps: 100000 }); },
  back() { ACTS.order({ behind: "" }); },
  async apart() { chooseParts(await post(`${base}/parts/${[...chosen.parts][0]}/apart`)); },
  async join() { chooseParts(await post(`${base}/parts/join`, { ids: [...chosen.parts].join(",") })); },
  "bone-of"() { choose("bones", model.parts.find((p) => chosen.parts.has(p.id))?.bone, false); },
};

document.addEventListener("click", (event) => {
  const act = event.target.closest?.("[data-act]")?.dataset.act;
  if (act) ACTS[act]();
  const pressed = event.target.closest?.(".tool[data-tool]");
  if (pressed) setTool(pressed.dataset.tool);
});

installLists({ base, chosen, choose });

function rename() { document.querySelector("#card input[name=name]")?.select(); }

document.addEventListener("dblclick", (event) => { if (event.target.closest?.(".rowline .pick")) rename(); });

async function nudge(dx, dy) {
  const item = wires.get([...chosen.bones][0]);
  if (!item) return;
  await settled();
  post(`${base}/bones/${item.node.id}/pivot`, { x: item.at[0] + dx, y: item.at[1] + dy });
}

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const KEYS = {
  p: () => setTool("pick"), j: () => setTool("joint"), b: () => setTool("bone"), t: () => setTool("try"),
  F2: rename, g: ACTS.group, f: () => stage.fit(model.box), n: () => document.getElementById("names").click(), Delete: ACTS.remove, Backspace: ACTS.remove,
  Escape: () => (gesture ? giveUp() : choose("parts", null, false)),
};

document.addEventListener("keydown", (event) => {
  if (typing(event) || event.ctrlKey || event.metaKey || event.defaultPrevented) return;
  if (event.key === " ") { stage.spaceDown = true; if (event.target === stage.host) event.preventDefault(); return; }
  if (ARROWS[event.key] && event.target === stage.host) {
    event.preventDefault();
    const [dx, dy] = ARROWS[event.key], by = event.shiftKey ? 10 : 1;
    nudge(dx * by, dy * by);
    return;
  }
  const work = KEYS[event.key.length === 1 ? event.key.toLowerCase() : event.key];
  if (work) { event.preventDefault(); work(); }
});
document.addEventListener("keyup", (event) => { if (event.key === " ") stage.spaceDown = false; });

document.getElementById("fit").addEventListener("click", () => stage.fit(model.box));
document.getElementById("zoom-in").addEventListener("click", () => stage.zoom(1.25));
document.getElementById("zoom-out").addEventListener("click", () => stage.zoom(0.8));
stage.onDraw(() => { document.getElementById("zoom").textContent = `${Math.round(stage.view.scale * 100)} %`; });
function press(id, work) {
  document.getElementById(id).addEventListener("click", (event) => {
    const on = event.currentTarget.getAttribute("aria-pressed") !== "true";
    event.currentTarget.setAttribute("aria-pressed", String(on));
    work(on);
  });
}
press("names", (on) => stage.host.classList.toggle("named", on));
press("wires", (on) => { wires.visible = on; stage.redraw(); });

document.addEventListener("gw:changed", load);
document.addEventListener("gw:lamp", setScenery);
load();

installProbe(stage, wires, {
  get revision() { return model?.revision; },
  get calm() { return asking === 0; },
  chosen, live, settled,
});
