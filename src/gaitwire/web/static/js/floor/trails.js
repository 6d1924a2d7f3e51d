// Motion trails: where tips and pins go over time, a tick for every frame, a bead for every key that can be dragged.
import { svg } from "../stage/stage.js";

const FAR = 60; // frames to either side that are shown of a long scene

export class Trails {
  keyTimes; nodes; player; stage; wires;
  constructor({ stage, wires, player, nodes, keyTimes }) {
    Object.assign(this, { stage, wires, player, nodes, keyTimes, on: false, kept: new Map() });
    this.root = svg("g", { class: "trails" });
    stage.overlay.prepend(this.root);
    stage.onDraw(() => this.draw());
    document.getElementById("trails").addEventListener("click", () => this.toggle());
  }

  toggle() {
    this.on = !this.on;
    document.getElementById("trails").setAttribute("aria-pressed", String(this.on));
    this.stage.redraw();
  }

  /** Where a node's tip (its joint, if it has no length) is on every frame shown: [frame, x, y] in stage pixels. */
  #course(item) {
    const { all, frame, info } = this.player, { length, angle } = item.node;
    const long = all.count > 2 * FAR && !info.loop;
    const from = long ? Math.max(0, Math.round(frame) - FAR) : 0, to = long ? Math.min(all.count, Math.round(frame) + FAR) : all.count;
    const turn = (angle * Math.PI) / 180, lx = length * Math.cos(turn), ly = length * Math.sin(turn);
    return Array.from({ length: to - from }, (_, n) => {
      const [a, b, c, d, e, f] = all.bone(from + n, item.index);
      return [from + n, a * lx + c * ly + e, b * lx + d * ly + f];
    });
  }

  draw() {
    const { all, playing } = this.player;
    const shown = this.on && !playing && all ? this.nodes().map((node) => this.wires.byId?.get(node.join(":"))).filter(Boolean) : [];
    const { scale, x, y } = this.stage.view;
    const state = JSON.stringify([shown.map(({ index }) => index), scale, x, y, this.player.frame, all?.stamp]);
    if (state === this.state) return;
    this.state = state;
    this.root.replaceChildren();
    for (const item of shown.slice(0, 12)) this.#trail(item);
  }

  #trail(item) {
    const points = this.#course(item).map(([frame, px, py]) => [frame, ...this.stage.toScreen(px, py)]);
    const at = (values) => values.map((v) => v.toFixed(1)).join(" ");
    const path = points.map(([, px, py]) => at([px, py])).join("L"), { info, frame: now } = this.player;
    svg("path", { class: "trail", d: `M${path}${info.loop ? "Z" : ""}` }, this.root);
    const keys = this.keyTimes(item.node.instance, item.node.id);
    for (const [frame, px, py] of points) if (!keys.has(frame)) svg("circle", { class: "trailtick", cx: px.toFixed(1), cy: py.toFixed(1), r: 1.8 }, this.root);
    for (const [frame, px, py] of points) {
      if (!keys.has(frame) || frame === now) continue;
      const group = svg("g", { class: "wire", "data-bone": item.node.id, "data-instance": item.node.instance, "data-frame": frame }, this.root);
      const grip = item.node.kind !== "bone" ? "pin" : item.node.length > 0 ? "tip" : "pivot";
      svg("circle", {
        class: "trailkey grab", "data-grip": grip, cx: px.toFixed(1), cy: py.toFixed(1), r: 4.5, role: "button", tabindex: "-1",
        "aria-label": `${item.node.name} at frame ${frame + info.first}`,
      }, group);
    }
  }
}
