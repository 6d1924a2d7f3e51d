// The row of poses above the wires: one puppet at the frames where most of it is keyed.
import { shownOf } from "./shown.js";

const WIDE = 62, TALL = 66;

const EDGE = 19; // px: the middle of the first tile, which is held clear of the names

/** Of times with weights, those whose tiles fit side by side, the heaviest first. */
function spread(counts, ppf) {
  const taken = [], place = (time) => Math.max(time * ppf, EDGE);
  for (const [time] of [...counts].sort(([a, m], [b, n]) => n - m || a - b)) {
    if (taken.every((other) => Math.abs(place(other) - place(time)) >= WIDE + 6)) taken.push(time);
  }
  return taken.sort((a, b) => a - b);
}

export class PoseStrip {
  constructor({ stage, timeline, player, onSeek }) {
    Object.assign(this, { stage, timeline, player, onSeek, shown: [] });
    document.addEventListener("click", (event) => {
      const tile = event.target.closest?.("#poses .pose");
      if (tile) this.onSeek(Number(tile.dataset.frame));
    });
  }

  /** Draw the poses of a puppet: { instance, name }, or null for none. */
  show(subject) {
    this.subject = subject;
    const host = document.getElementById("poses");
    const { all } = this.player;
    const counts = subject && all ? this.timeline.counts((instance) => instance === subject.instance).filter(([time]) => time < all.count) : [];
    const frames = [...new Set(spread(counts, this.timeline.ppf).map(Math.round))].filter((frame) => frame < (all?.count ?? 0));
    document.getElementById("poses-of").textContent = subject ? `${subject.name} · ${counts.length} keyed` : "";
    host.replaceChildren(...frames.map((frame) => this.#tile(frame)));
    const box = frames.length ? this.#box(frames) : null;
    for (const tile of host.children) this.#draw(tile.querySelector("canvas"), Number(tile.dataset.frame), box);
    this.at(this.frame);
  }

  at(frame) {
    this.frame = frame;
    for (const tile of document.querySelectorAll("#poses .pose")) tile.classList.toggle("here", Number(tile.dataset.frame) === frame);
  }

  #tile(frame) {
    const tile = document.createElement("button");
    tile.type = "button";
    tile.className = "pose";
    tile.dataset.frame = frame;
    tile.style.setProperty("--time", frame);
    const shown = frame + this.player.info.first;
    tile.setAttribute("aria-label", `Pose at frame ${shown}`);
    const label = document.createElement("span");
    label.textContent = shown;
    tile.append(document.createElement("canvas"), label);
    return tile;
  }

  /** Parts of the subject at a frame, back to front, with their matrices. */
  * #parts(frame) {
    const { all } = this.player, { parts, art } = this.stage;
    for (let place = 0; place < all.parts; place += 1) {
      const index = all.order[frame * all.parts + place];
      const opacity = all.opacity[frame * all.parts + index];
      if (parts[index]?.instance !== this.subject.instance || opacity <= 0) continue;
      const shows = shownOf(all, frame, index, parts[index], art);
      if (shows) yield [shows, all.matrix(frame, index), opacity];
    }
  }

  /** One box for all tiles, so that a hop is seen as a hop. */
  #box(frames) {
    const box = [Infinity, Infinity, -Infinity, -Infinity];
    for (const frame of frames) {
      for (const [{ drawing: { box: [x0, y0, x1, y1] } }, [a, b, c, d, e, f]] of this.#parts(frame)) {
        for (const [x, y] of [[x0, y0], [x1, y0], [x0, y1], [x1, y1]]) {
          const px = a * x + c * y + e, py = b * x + d * y + f;
          box[0] = Math.min(box[0], px); box[1] = Math.min(box[1], py);
          box[2] = Math.max(box[2], px); box[3] = Math.max(box[3], py);
        }
      }
    }
    return box;
  }

  #draw(canvas, frame, [x0, y0, x1, y1]) {
    const ratio = window.devicePixelRatio || 1, w = WIDE - 4, h = TALL - 18;
    canvas.width = w * ratio;
    canvas.height = h * ratio;
    const k = Math.min(w / (x1 - x0), h / (y1 - y0)) * ratio;
    const ox = canvas.width / 2 - ((x0 + x1) / 2) * k, oy = canvas.height / 2 - ((y0 + y1) / 2) * k;
    const ctx = canvas.getContext("2d");
    for (const [{ drawing, bent }, [a, b, c, d, e, f], opacity] of this.#parts(frame)) {
      ctx.setTransform(a * k, b * k, c * k, d * k, e * k + ox, f * k + oy);
      drawing.draw(ctx, opacity, bent);
    }
  }
}
