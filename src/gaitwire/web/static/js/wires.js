// Bones, drawn as wire: a stroke with a collar at the pivot and a small ball at the tip.
import { svg } from "./stage.js";

export class Wires {
  constructor(stage) {
    this.stage = stage;
    this.root = svg("g", { class: "wires" }, stage.overlay);
    this.items = [];
    this.visible = true;
    stage.onDraw(() => this.place());
  }

  /** Nodes in the order of the frame's; null for one that is no bone. They are placed with the next frame shown. */
  setNodes(nodes) {
    this.root.replaceChildren();
    this.items = nodes.map((node, index) => (node && !node.hidden ? this.#make(node, index) : null)).filter(Boolean);
    this.byId = new Map(this.items.map((item) => [`${item.node.instance}:${item.node.id}`, item]));
  }

  #make(node, index) {
    const kinds = `wire ${node.side} ${node.length > 0 ? "" : "group"} ${node.locked ? "locked" : ""}`;
    const group = svg("g", { class: kinds, "data-bone": node.id, "data-instance": node.instance }, this.root);
    const item = { node, index, group };
    if (node.length > 0) {
      item.lines = ["halo", "core", "slit"].map((name) => svg("path", { class: `${name} grab`, "data-grip": "body" }, group));
      item.tip = svg("circle", { class: "tip grab", r: 4, "data-grip": "tip", role: "button", "aria-label": `Tip of ${node.name}` }, group);
    }
    item.collar = svg("circle", {
      class: "collar grab", r: node.length > 0 ? 7 : 6.5, "data-grip": "pivot", role: "button", tabindex: "-1", "aria-label": `Joint of ${node.name}`,
    }, group);
    item.hub = svg("circle", { class: "hub", r: 2.5 }, group);
    item.name = svg("text", { "aria-hidden": "true" }, group);
    item.name.textContent = node.name;
    return item;
  }

  place() {
    const { frames, index } = this.stage;
    this.root.toggleAttribute("hidden", !this.visible || !frames);
    if (!frames || !this.visible) { this.root.setAttribute("display", "none"); return; }
    this.root.removeAttribute("display");
    for (const item of this.items) this.#placeOne(item, frames.bone(index, item.index));
  }

  #placeOne(item, [a, b, c, d, e, f]) {
    const [px, py] = this.stage.toScreen(e, f);
    item.at = [e, f];
    for (const dot of [item.collar, item.hub]) { dot.setAttribute("cx", px.toFixed(2)); dot.setAttribute("cy", py.toFixed(2)); }
    item.name.setAttribute("x", (px + 11).toFixed(1));
    item.name.setAttribute("y", (py - 8).toFixed(1));
    if (!item.lines) return;
    const angle = (item.node.angle * Math.PI) / 180;
    const lx = item.node.length * Math.cos(angle), ly = item.node.length * Math.sin(angle);
    item.end = [a * lx + c * ly + e, b * lx + d * ly + f];
    const [tx, ty] = this.stage.toScreen(...item.end);
    const path = `M${px.toFixed(2)} ${py.toFixed(2)}L${tx.toFixed(2)} ${ty.toFixed(2)}`;
    for (const line of item.lines) line.setAttribute("d", path);
    item.tip.setAttribute("cx", tx.toFixed(2));
    item.tip.setAttribute("cy", ty.toFixed(2));
  }

  mark(chosen) {
    for (const [key, item] of this.byId ?? []) item.group.classList.toggle("chosen", chosen.has(key) || chosen.has(item.node.id));
  }

  get(id) { return this.items.find((item) => item.node.id === id); }
}
