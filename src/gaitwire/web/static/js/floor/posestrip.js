// The row of poses above the wires: one puppet wherever its whole body has a pose. Tiles are dragged to retime them.
import { boxOf } from "../stage/shown.js";
import { drawThumb } from "../stage/thumb.js";

const WIDE = 62, TALL = 66, LEAST = 26; // px: a tile, and how narrow it may get before it is a notch

const GAP = 3; // px between tiles

const NAMED = 40; // px from which on a tile has room for its name

const EDGE = 19; // px: the middle of the first tile, which is held clear of the names

const FAR = 1.9; // times as far up and down as a puppet is high

/** Of poses, those whose tiles fit side by side, the chosen one and extremes first; each as wide as there is room. */
function spread(poses, ppf, chosen) {
  const taken = [], place = ({ time }) => Math.max(time * ppf, EDGE);
  const weight = (pose) => (pose.key === chosen ? 3 : !pose.id ? 0 : pose.kind === "breakdown" ? 1 : 2);
  // What was found makes none narrower that was marked.
  const room = (one, other) => (Boolean(one.id) === Boolean(other.id) || one.key === chosen ? LEAST : WIDE) + GAP;
  for (const pose of [...poses].sort((a, b) => weight(b) - weight(a) || a.time - b.time)) {
    if (taken.every((other) => Math.abs(place(other) - place(pose)) >= room(pose, other))) taken.push(pose);
  }
  taken.sort((a, b) => a.time - b.time);
  const wide = (n) => Math.min(...[n - 1, n + 1].filter((m) => taken[m]).map((m) => Math.abs(place(taken[m]) - place(taken[n]))), WIDE + GAP);
  return taken.map((pose, n) => ({ ...pose, wide: Math.floor(wide(n) - GAP) }));
}

export class PoseStrip {
  onMove; onPick; player; stage; timeline;
  constructor({ stage, timeline, player, onPick }) {
    Object.assign(this, { stage, timeline, player, onPick, onMove() {}, chosen: "", drag: null });
    document.addEventListener("pointerdown", (event) => this.#down(event));
    document.addEventListener("pointermove", (event) => this.#move(event));
    document.addEventListener("pointerup", () => this.#up());
    document.addEventListener("keydown", (event) => this.#keys(event), { capture: true });
    document.addEventListener("click", (event) => { // by the keyboard; the pointer's own clicks were picks already
      const tile = event.target.closest?.("#poses [data-pose]");
      if (tile && event.detail === 0) this.#pick(tile);
    });
  }

  /** Draw the poses of a puppet: { instance, name, poses, found }, or null for none. */
  show(subject) {
    this.subject = subject;
    const host = document.getElementById("poses");
    const { all } = this.player;
    const found = (subject?.found ?? []).map((pose) => ({ id: "", kind: "extreme", ...pose, key: this.foundId(pose) }));
    const marked = (subject?.poses ?? []).map((pose) => ({ ...pose, key: pose.id }));
    this.list = [...marked, ...found].filter(({ time }) => all && time < all.count).sort((a, b) => a.time - b.time);
    const many = found.length ? `${marked.length ? `${marked.length} + ` : ""}${found.length} found` : marked.length;
    document.getElementById("poses-of").textContent = subject ? `${subject.name} · ${many}` : "";
    document.getElementById("mark-poses").hidden = found.length === 0;
    const tiles = spread(this.list, this.timeline.ppf, this.chosen), shown = new Set(tiles.map(({ key }) => key));
    const notches = this.list.filter(({ key }) => !shown.has(key)).map((pose) => this.#notch(pose));
    host.replaceChildren(...tiles.map((pose) => this.#tile(pose)), ...notches);
    const frames = tiles.map(({ time }) => Math.round(time)), boxes = this.#boxes(frames);
    host.querySelectorAll(".pose").forEach((tile, n) => this.#draw(tile.querySelector("canvas"), frames[n], boxes[n], tiles[n].wide));
    this.at(this.frame);
  }

  /** By what a pose that nobody marked is known: its puppet and its frame. */
  foundId({ time }, subject = this.subject) { return `found:${subject.instance}:${time}`; }

  /** When its poses are: the marked ones, where there are such. */
  get times() {
    const list = this.list ?? [], marked = list.filter(({ id }) => id);
    return (marked.length ? marked : list).map(({ time }) => time);
  }

  at(frame) {
    this.frame = frame;
    for (const tile of document.querySelectorAll("#poses [data-pose]")) {
      tile.classList.toggle("here", Number(tile.dataset.frame) === frame);
      tile.classList.toggle("chosen", tile.dataset.pose === this.chosen);
    }
  }

  choose(id) {
    this.chosen = id;
    if (id && document.querySelector(`#poses .posenotch[data-pose="${CSS.escape(id)}"]`)) this.show(this.subject); // it gets a tile
    else this.at(this.frame);
  }

  /** The next pose to either side; around the loop. */
  next(direction, here) {
    const list = this.list ?? [];
    if (direction > 0) return list.find(({ time }) => time > here + 1e-6) ?? list[0];
    return list.findLast(({ time }) => time < here - 1e-6) ?? list.at(-1);
  }

  #tile({ id, key, time, name, kind, wide }) {
    const tile = document.createElement("button");
    tile.type = "button";
    tile.className = `pose ${kind} ${id ? "" : "loose"}`;
    Object.assign(tile.dataset, { frame: time, pose: key });
    tile.style.setProperty("--time", time);
    tile.style.setProperty("--wide", wide);
    const shown = Number((time + this.player.info.first).toFixed(2));
    tile.setAttribute("aria-label", `${name || (kind === "breakdown" ? "Breakdown" : "Pose")} at frame ${shown}`);
    tile.title = id ? "Drag to retime it; what lies between moves in proportion. Arrows move it by a frame." : "Most of the body has beads here. Named, it is marked as a pose.";
    const label = document.createElement("span");
    label.textContent = wide < NAMED ? shown : name || shown;
    tile.append(document.createElement("canvas"), label);
    return tile;
  }

  /** Where there is no room for a tile: a mark, which gets one when it is clicked. */
  #notch({ key, time, name }) {
    const mark = document.createElement("button");
    mark.type = "button";
    mark.className = "posenotch";
    mark.tabIndex = -1; // for the pointer; by the keyboard poses are gone through by brackets
    Object.assign(mark.dataset, { frame: time, pose: key });
    mark.style.setProperty("--time", time);
    mark.title = `${name || "Pose"} at frame ${Number((time + this.player.info.first).toFixed(2))}`;
    mark.setAttribute("aria-label", mark.title);
    return mark;
  }

  #pick(tile) { this.onPick(tile.dataset.pose, Number(tile.dataset.frame)); }

  #down(event) {
    const tile = event.target.closest?.("#poses [data-pose]");
    if (!tile || event.button !== 0) return;
    event.preventDefault();
    tile.focus();
    this.drag = { tile, from: event.clientX, time: Number(tile.dataset.frame), by: 0 };
  }

  #move(event) {
    const { drag } = this;
    if (!drag || !this.#isMarked(drag.tile)) return;
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

  #isMarked(tile) { return tile.classList.contains("pose") && !tile.classList.contains("loose"); }

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
    if (!tile || !this.#isMarked(tile) || !step || event.altKey || event.ctrlKey) return;
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

  #draw(canvas, frame, box, wide) {
    const { parts, art } = this.stage, mine = (part) => part.instance === this.subject.instance;
    drawThumb(canvas, [wide - 4, TALL - 18], box, { frames: this.player.all, index: frame, parts, art }, mine);
  }
}
