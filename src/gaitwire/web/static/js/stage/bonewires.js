// Bones, drawn as wire: a stroke with a collar at the pivot and a small ball at the tip.
import { svg } from "./stage.js";

const SIDES = ["far", "centre", "near"];

/** Only what has changed is written: a moving picture touches one or two attributes a bone. */
function put(element, name, value) {
  if (element.kept?.[name] === value) return;
  (element.kept ??= {})[name] = value;
  element.setAttribute(name, value);
}

export class Wires {
  constructor(stage) {
    this.stage = stage;
    this.root = svg("g", { class: "wires" }, stage.overlay);
    this.items = [];
    this.visible = true;
    this.resting = false; // out of sight for a while, as during playing
    this.shown = null; // ids of the bones to be seen, or null for all
    this.only = null; // during a drag: the bones that move; the others step back
    stage.onDraw(() => this.place());
  }

  /** Nodes in the order of the frame's; null for one that is no bone. They are placed with the next frame shown. */
  setNodes(nodes) {
    const text = JSON.stringify(nodes);
    if (text === this.text) return;
    this.text = text;
    this.root.replaceChildren();
    // Near over far, as the body is seen: where joints meet, the near one is caught.
    const seen = nodes.map((node, index) => [node, index]).filter(([node]) => node && !node.hidden);
    seen.sort(([a], [b]) => SIDES.indexOf(a.side) - SIDES.indexOf(b.side));
    this.items = seen.map(([node, index]) => this.#make(node, index));
    this.byId = new Map(this.items.map((item) => [`${item.node.instance}:${item.node.id}`, item]));
  }

  #make(node, index) {
    if (node.kind !== "bone") return this.#makePin(node, index);
    const kinds = `wire ${node.tag ? `tag-${node.tag}` : ""} ${node.swings ? "swings" : ""} ${node.side} ${node.length > 0 ? "" : "group"} ${node.locked ? "locked" : ""}`;
    const group = svg("g", { class: kinds, "data-bone": node.id, "data-instance": node.instance }, this.root);
    const item = { node, index, group };
    if (node.length > 0) {
      item.shaft = svg("g", {}, group);
      item.lines = ["halo", "core", "slit"].map((name) => svg("path", { class: `${name} grab`, "data-grip": "body" }, item.shaft));
      item.tip = svg("circle", { class: "tip grab", r: 4, "data-grip": "tip", role: "button", "aria-label": `Tip of ${node.name}` }, item.shaft);
    }
    item.collar = svg("circle", {
      class: "collar grab", r: node.length > 0 ? 7 : 6.5, "data-grip": "pivot", role: "button", tabindex: "-1", "aria-label": `Joint of ${node.name}`,
    }, group);
    svg("circle", { class: "hub", r: 2.5 }, group);
    svg("text", { "aria-hidden": "true", x: 11, y: -8 }, group).textContent = node.name;
    return item;
  }

  /** A lead pin is a tack, an anchor pin a staple. */
  #makePin(node, index) {
    const group = svg("g", { class: `wire pin ${node.kind} ${node.holds ? "holds" : ""}`, "data-bone": node.id, "data-instance": node.instance }, this.root);
    const grip = { class: "grab", "data-grip": "pin", role: "button", tabindex: "-1", "aria-label": `Pin ${node.name}` };
    if (node.kind === "lead") {
      svg("path", { class: "needle", d: "M0 0V-8" }, group);
      svg("path", { ...grip, class: "head grab", d: "M-6.500 -7H6.500L4 -11V-14H6V-17H-6V-14H-4V-11Z" }, group);
    } else svg("path", { ...grip, class: "clamp grab", d: "M-7 6V-4H7V6" }, group);
    svg("circle", { class: "point grab", "data-grip": "pin", r: 2.6 }, group);
    svg("text", { "aria-hidden": "true", x: 12, y: -8 }, group).textContent = node.name;
    return { node, index, group };
  }

  place() {
    const { frames, index } = this.stage;
    const shown = this.visible && !this.resting && frames !== null;
    put(this.root, "display", shown ? "inline" : "none");
    if (!shown) return;
    put(this.root, "class", this.stage.view.scale < 0.8 ? "wires small" : "wires");
    for (const item of this.items) {
      const away = this.shown !== null && item.node.kind === "bone" && !this.shown.has(item.node.id);
      const aside = away || (this.only !== null && !this.only.has(item));
      put(item.group, "visibility", aside ? "hidden" : "inherit");
      if (aside) continue;
      const [a, b, c, d, e, f] = frames.bone(index, item.index);
      const angle = (item.node.angle * Math.PI) / 180, { length } = item.node;
      const lx = length * Math.cos(angle), ly = length * Math.sin(angle);
      this.draw(item, [e, f], [a * lx + c * ly + e, b * lx + d * ly + f]);
    }
  }

  /** Draw one bone from its joint to its tip, both in the stage's pixels. */
  draw(item, at, end) {
    item.at = at;
    if (item.lines) item.end = end;
    const [px, py] = this.stage.toScreen(...at);
    put(item.group, "transform", `translate(${px.toFixed(2)} ${py.toFixed(2)})`);
    if (!item.lines) return;
    const [tx, ty] = this.stage.toScreen(...end);
    put(item.shaft, "transform", `rotate(${((Math.atan2(ty - py, tx - px) * 180) / Math.PI).toFixed(2)})`);
    const long = Math.hypot(tx - px, ty - py).toFixed(1);
    for (const line of item.lines) put(line, "d", `M0 0H${long}`);
    put(item.tip, "cx", long);
  }

  /** Keep only some bones in sight, by (instance, id), or all again. */
  keepOnly(nodes) {
    this.only = nodes ? new Set(nodes.map((node) => this.byId.get(node.join(":")))) : null;
    this.stage.redraw();
  }

  /** Chosen bones lie over the others, where joints meet in one point. */
  mark(chosen) {
    for (const [key, item] of this.byId ?? []) {
      const on = chosen.has(key) || chosen.has(item.node.id);
      if (on && !item.group.classList.contains("chosen")) this.root.append(item.group);
      item.group.classList.toggle("chosen", on);
    }
  }

  get(id) { return this.items.find((item) => item.node.id === id); }
}
