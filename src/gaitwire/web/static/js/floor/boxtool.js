// The box: all that is chosen is moved, turned or scaled as one thing, about a point that can be placed.
import { svg } from "../stage/stage.js";
import { boxOf } from "../stage/shown.js";

const CORNERS = [[0, 0], [1, 0], [1, 1], [0, 1]];
const SIDES = [[0.5, 0], [1, 0.5], [0.5, 1], [0, 0.5]];

export class BoxTool {
  hangers; nodes; of; player; stage;
  constructor({ stage, wires, nodes, hangers, player }) {
    Object.assign(this, { stage, wires, nodes, hangers, player, point: null, of: "" });
    this.root = svg("g", { class: "boxtool", display: "none" }, stage.overlay);
    this.frame = svg("path", { class: "boxframe", "data-box": "shift" }, this.root);
    this.stem = svg("path", { class: "boxstem" }, this.root);
    this.corners = CORNERS.map((place) => this.#handle("scale", place, "Scale about the point"));
    this.sides = SIDES.map((place) => this.#handle("sides", place, "Stretch about the point"));
    this.ring = svg("circle", { class: "boxring", r: 7, "data-box": "turn", role: "button", tabindex: "-1", "aria-label": "Turn about the point" }, this.root);
    this.about = svg("g", { class: "boxabout", "data-box": "about", role: "button", tabindex: "-1", "aria-label": "Point about which the box turns and scales" }, this.root);
    svg("circle", { r: 8 }, this.about);
    svg("path", { d: "M-12 0H12M0 -12V12" }, this.about);
    stage.onDraw(() => this.draw());
  }

  #handle(kind, place, label) {
    const handle = svg("rect", { class: `boxhandle ${kind}`, x: -5, y: -5, width: 10, height: 10, rx: kind === "scale" ? 5 : 2, "data-box": kind, role: "button", tabindex: "-1", "aria-label": label }, this.root);
    return { handle, place };
  }

  /** The chosen nodes' parts on the frame that is shown, as a box of stage pixels; or null. */
  box() {
    const { frames, index, parts, art } = this.stage;
    const meant = new Set(this.hangers(this.nodes()).map((node) => node.join(":"))), whole = new Set(this.nodes().filter(([i, o]) => i === o).map(([i]) => i));
    const wanted = (part) => whole.has(part.instance) || meant.has(`${part.instance}:${part.bone}`);
    return frames && boxOf(frames, index, parts, art, wanted);
  }

  /** What is dragged when something of the box is pressed: { kind, about }, in stage pixels. */
  grab(target) {
    const kind = target.closest?.("[data-box]")?.dataset.box;
    return kind ? { kind, about: this.point } : null;
  }

  place(x, y) {
    this.point = [x, y];
    this.placed = true;
    this.draw();
  }

  draw() {
    const on = this.stage.host.dataset.tool === "box" && this.nodes().length > 0 && !this.player.playing;
    const box = on ? this.box() : null;
    this.root.setAttribute("display", box ? "inline" : "none");
    if (!box) return;
    const of = this.nodes().map((node) => node.join(":")).join();
    if (of !== this.of) Object.assign(this, { of, placed: false });
    const [x0, y0, x1, y1] = box;
    if (!this.placed) this.point = [(x0 + x1) / 2, this.#seatOnly() ? y1 : (y0 + y1) / 2];
    const [sx0, sy0] = this.stage.toScreen(x0, y0), [sx1, sy1] = this.stage.toScreen(x1, y1);
    this.frame.setAttribute("d", `M${sx0} ${sy0}H${sx1}V${sy1}H${sx0}Z`);
    const at = (place) => `translate(${(sx0 + (sx1 - sx0) * place[0]).toFixed(1)} ${(sy0 + (sy1 - sy0) * place[1]).toFixed(1)})`;
    for (const { handle, place } of this.corners) handle.setAttribute("transform", at(place));
    for (const { handle, place } of this.sides) {
      handle.setAttribute("transform", at(place));
      handle.setAttribute("display", this.#seatOnly() ? "inline" : "none");
    }
    const middle = (sx0 + sx1) / 2;
    this.stem.setAttribute("d", `M${middle} ${sy0}V${sy0 - 22}`);
    this.ring.setAttribute("transform", `translate(${middle} ${sy0 - 28})`);
    const [ax, ay] = this.stage.toScreen(...this.point);
    this.about.setAttribute("transform", `translate(${ax.toFixed(1)} ${ay.toFixed(1)})`);
  }

  /** Whole puppets alone are stretched by their sides too. */
  #seatOnly() { return this.nodes().every(([instance, owner]) => instance === owner); }
}
