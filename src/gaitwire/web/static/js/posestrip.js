// The row of poses above the wires: one puppet wherever its whole body has a pose. Tiles are dragged to retime them.
import { boxOf } from "./shown.js";
import { drawThumb } from "./thumb.js";

const WIDE = 62, TALL = 66;

const EDGE = 19; // px: the middle of the first tile, which is held clear of the names

const FAR = 1.9; // times as far up and down as a puppet is high

/** Of poses, those whose tiles fit side by side, the chosen one and extremes first. */
function spread(poses, ppf, chosen) {
  const taken = [], place = ({ time }) => Math.max(time * ppf, EDGE);
  const weight = (pose) => (pose.id && pose.id === chosen ? 2 : pose.kind === "breakdown" ? 0 : 1);
  for (const pose of [...poses].sort((a, b) => weight(b) - weight(a) || a.time - b.time)) {
    if (taken.every((other) => Math.abs(place(other) - place(pose)) >= WIDE + 6)) taken.push(pose);
  }
  return taken.sort((a, b) => a.time - b.time);
}

export class PoseStrip {
  constructor({ stage, timeline, player, onPick }) {
    Object.assign(this, { stage, timeline, player, onPick, onMove() {}, chosen: "", drag: null });
    document.addEventListener("pointerdown", (event) => this.#down(event));
    document.addEventListener("pointermove", (event) => this.#move(event));
    document.addEventListener("pointerup", () => this.#up());
    document.addEventListener("keydown", (event) => this.#keys(event), { capture: true });
    document.addEventListener("click", (event) => { // by the keyboard; the pointer's own clicks were picks already
      const tile = event.target.closest?.("#poses .pose");
      if (tile && event.detail === 0) this.#pick(tile);
    });
  }

  /** Draw the poses of a puppet: { instance, name, poses, found }, or null for none. */
  show(subject) {
    this.subject = subject;
    const host = document.getElementById("poses");
    const { all } = this.player;
    const marked = subject?.poses ?? [], found = (subject?.found ?? []).map((pose) => ({ id: "", kind: "extreme", ...pose }));
    this.list = (marked.length ? marked : found).filter(({ time }) => all && time < all.count);
    document.getElementById("poses-of").textContent = subject ? `${subject.name} · ${this.list.length}${marked.length ? "" : " found"}` : "";
    document.getElementById("mark-poses").hidden = marked.length > 0 || found.length === 0;
    const tiles = spread(this.list, this.timeline.ppf, this.chosen);
    const notches = this.list.filter((pose) => !tiles.includes(pose)).map((pose) => this.#notch(pose));
    host.replaceChildren(...notches, ...tiles.map((pose) => this.#tile(pose)));
    const frames = tiles.map(({ time }) => Math.round(time)), boxes = this.#boxes(frames);
    host.querySelectorAll(".pose").forEach((tile, n) => this.#draw(tile.querySelector("canvas"), frames[n], boxes[n]));
    this.at(this.frame);
  }

  at(frame) {
    this.frame = frame;
    for (const tile of document.querySelectorAll("#poses .pose")) {
      tile.classList.toggle("here", Number(tile.dataset.frame) === frame);
      tile.classList.toggle("chosen", tile.dataset.pose !== "" && tile.dataset.pose === this.chosen);
    }
  }

  choose(id) {
    this.chosen = id;
    this.at(this.frame);
  }

  /** The next pose's time to either side; around the loop. */
  next(direction, here) {
    const times = (this.list ?? []).map(({ time }) => time);
    if (direction > 0) return times.find((time) => time > here + 1e-6) ?? times[0];
    return times.findLast((time) => time < here - 1e-6) ?? times.at(-1);
  }

  #tile({ id, time, name, kind }) {
    const tile = document.createElement("button");
    tile.type = "button";
    tile.className = `pose ${kind} ${id ? "" : "loose"}`;
    Object.assign(tile.dataset, { frame: time, pose: id });
    tile.style.setProperty("--time", time);
    const shown = Number((time + this.player.info.first).toFixed(2));
    tile.setAttribute("aria-label", `${name || (kind === "breakdown" ? "Breakdown" : "Pose")} at frame ${shown}`);
    if (id) tile.title = "Drag to retime it; what lies between moves in proportion. Arrows move it by a frame.";
    const label = document.createElement("span");
    label.textContent = name || shown;
    tile.append(document.createElement("canvas"), label);
    return tile;
  }

  #notch({ time }) {
    const mark = document.createElement("i");
    mark.className = "posenotch";
    mark.style.setProperty("--time", time);
    return mark;
  }

  #pick(tile) { this.onPick(tile.dataset.pose, Number(tile.dataset.frame)); }

  #down(event) {
    const tile = event.target.closest?.("#poses .pose");
    if (!tile || event.button !== 0) return;
    event.preventDefault();
    tile.focus();
    this.drag = { tile, from: event.clientX, time: Number(tile.dataset.frame), by: 0 };
  }

  #move(event) {
    const { drag } = this;
    if (!drag?.tile.dataset.pose) return;
    drag.by = Math.round((event.clientX - drag.from) / this.timeline.ppf);
    drag.tile.style.setProperty("--time", drag.time + drag.by);
    drag.tile.querySelector("span").textContent = drag.time + drag.by + this.player.info.first;
    drag.tile.classList.toggle("moving", drag.by !== 0);
  }

  #up() {
    const { drag } = this;
    this.drag = null;
    if (!drag) return;
    if (!drag.by) { this.#pick(drag.tile); return; }
    this.#retime(drag.tile, drag.time + drag.by);
  }

  /** Retime, and show the strip as it stands if that is refused. */
  async #retime(tile, to) {
    if (!(await this.onMove(tile.dataset.pose, to))) this.show(this.subject);
  }

  #keys(event) {
    const tile = event.target.closest?.("#poses .pose");
    if (event.key === "Escape" && this.drag) {
      event.preventDefault();
      this.drag = null;
      this.show(this.subject);
      return;
    }
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!tile?.dataset.pose || !step || event.altKey || event.ctrlKey) return;
    event.preventDefault();
    event.stopPropagation();
    this.#retime(tile, Number(tile.dataset.frame) + step);
  }

  /** A box for each tile, all of one size: as high as the whole way, so that a hop is seen as a hop; where the
   * puppet climbs or travels far, each as high as the puppet alone. */
  #boxes(frames) {
    const { parts, art } = this.stage, mine = (part) => part.instance === this.subject.instance;
    const boxes = frames.map((frame) => boxOf(this.player.all, frame, parts, art, mine) ?? [0, 0, 1, 1]);
    const wide = Math.max(...boxes.map(([x0, , x1]) => x1 - x0)) / 2, tall = Math.max(...boxes.map(([, y0, , y1]) => y1 - y0)) / 2;
    const top = Math.min(...boxes.map((box) => box[1])), end = Math.max(...boxes.map((box) => box[3]));
    const far = end - top > FAR * 2 * tall;
    return boxes.map(([x0, y0, x1, y1]) => {
      const x = (x0 + x1) / 2, y = (y0 + y1) / 2;
      return far ? [x - wide, y - tall, x + wide, y + tall] : [x - wide, top, x + wide, end];
    });
  }

  #draw(canvas, frame, box) {
    const { parts, art } = this.stage, mine = (part) => part.instance === this.subject.instance;
    drawThumb(canvas, [WIDE - 4, TALL - 18], box, { frames: this.player.all, index: frame, parts, art }, mine);
  }
}
