// The stage: a canvas with the artwork, drawn by the painter, and above it an SVG with everything that can be grabbed.
import { ArtShelf } from "./art.js";
import { shownOf } from "./shown.js";

const SVG = "http://www.w3.org/2000/svg";

export function svg(name, attributes = {}, parent = null) {
  const element = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  parent?.append(element);
  return element;
}

export class Stage {
  box; room; spaceDown; toldParts;
  constructor(host) {
    this.host = host;
    this.canvas = document.createElement("canvas");
    this.overlay = svg("svg", { "aria-label": "Handles" });
    host.append(this.canvas, this.overlay);
    this.art = new ArtShelf(() => this.redraw());
    this.probe = new OffscreenCanvas(1, 1).getContext("2d"); // asked what lies where; never drawn on
    this.parts = [];
    this.frames = null;
    this.index = 0;
    this.turn = 0; // counts gestures given up: frames of an older one are not to be drawn
    this.view = { scale: 1, x: 0, y: 0 };
    this.scenery = {};
    this.ghosts = []; // other frames to be drawn under or over this one
    this.listeners = [];
    this.painted = 0;
    this.paints = [];
    this.#hirePainter();
    host.addEventListener("dragstart", (event) => event.preventDefault()); // a drag of ours, not the browser's
    new ResizeObserver(() => this.resize()).observe(host);
    this.#panAndZoom();
  }

  #hirePainter() {
    this.painter = new Worker(new URL("./painter.js", import.meta.url), { type: "module" });
    this.heard = new Map();
    this.painter.addEventListener("message", ({ data }) => this.heard.get(data.kind)?.(data));
    this.listen("painted", ({ wait }) => { this.painted += 1; if (wait !== null) this.paints.push(wait); });
    const canvas = this.canvas.transferControlToOffscreen();
    this.tell({ kind: "canvas", canvas }, [canvas]);
  }

  tell(message, transfer = []) { this.painter.postMessage(message, transfer); }

  listen(kind, listener) { this.heard.set(kind, listener); }

  /** The drawn picture as a data URL, for tests. */
  snapshot() {
    return new Promise((resolve) => {
      this.listen("snapshot", ({ blob }) => {
        const reader = new FileReader();
        reader.addEventListener("load", () => resolve(reader.result));
        reader.readAsDataURL(blob);
      });
      this.tell({ kind: "snapshot" });
    });
  }

  onDraw(listener) { this.listeners.push(listener); }

  resize() {
    const { clientWidth: w, clientHeight: h } = this.host;
    const ratio = window.devicePixelRatio || 1;
    if (!w || !h) return;
    this.tell({ kind: "size", width: Math.round(w * ratio), height: Math.round(h * ratio), ratio });
    if (this.box && !this.moved) this.fit(this.box, this.room);
    else this.redraw();
  }

  /** Fetch what art is missing; the parts themselves are set together with their frames. */
  fetchArt(parts) { return this.art.fetch(parts.flatMap((part) => part.arts)); }

  setParts(parts) {
    if (JSON.stringify(parts) !== JSON.stringify(this.parts)) this.parts = parts;
  }

  show(frames, index = 0) {
    Object.assign(this, { frames, index });
    this.redraw();
  }

  /** A frame that the painter has drawn already: only what lies above it follows. */
  follow(frames) {
    this.told = frames;
    this.show(frames);
  }

  /** Fit a box of stage pixels, with room for what lies over it. */
  fit(box, room = { left: 40, top: 64, right: 40, bottom: 64 }) {
    Object.assign(this, { box, room, moved: false });
    const { clientWidth: w, clientHeight: h } = this.host;
    if (!w || !h) return;
    this.fitted = true;
    const [x0, y0, x1, y1] = box;
    const scale = Math.min((w - room.left - room.right) / Math.max(x1 - x0, 1), (h - room.top - room.bottom) / Math.max(y1 - y0, 1));
    this.view.scale = Math.max(scale, 0.01);
    this.view.x = (w + room.left - room.right) / 2 - ((x0 + x1) / 2) * this.view.scale;
    this.view.y = (h + room.top - room.bottom) / 2 - ((y0 + y1) / 2) * this.view.scale;
    this.redraw();
  }

  zoom(factor, at = null) {
    const { clientWidth: w, clientHeight: h } = this.host;
    const [px, py] = at ?? [w / 2, h / 2];
    this.moved = true;
    const scale = Math.min(64, Math.max(0.02, this.view.scale * factor));
    const ratio = scale / this.view.scale;
    this.view.x = px - (px - this.view.x) * ratio;
    this.view.y = py - (py - this.view.y) * ratio;
    this.view.scale = scale;
    this.redraw();
  }

  /** Page pixels to stage pixels. */
  toStage(event) {
    const box = this.host.getBoundingClientRect();
    return [(event.clientX - box.left - this.view.x) / this.view.scale, (event.clientY - box.top - this.view.y) / this.view.scale];
  }

  /** Stage pixels to pixels of the stage's own corner. */
  toScreen(x, y) { return [x * this.view.scale + this.view.x, y * this.view.scale + this.view.y]; }

  redraw() { this.asked ||= requestAnimationFrame(() => { this.asked = 0; this.#tellAll(); }); }

  /** Draw now what was to be drawn with the page's next picture. */
  flush() {
    cancelAnimationFrame(this.asked);
    this.asked = 0;
    this.#tellAll();
  }

  #tellAll() {
    const { view, scenery, index, turn, frames, parts, ghosts } = this;
    const message = { kind: "show", view: { ...view }, scenery, index, turn, ghosts };
    if (this.toldParts !== parts) message.parts = parts.map(({ arts, soft, instance }) => ({ arts, soft, instance }));
    if (this.told !== frames && frames) message.frames = { buffer: frames.buffer, offset: frames.offset };
    Object.assign(this, { told: frames, toldParts: parts });
    this.tell(message);
    for (const listener of this.listeners) listener(this);
  }

  /** The frontmost part under a point of the stage, or null. */
  partAt(x, y, all = false) {
    const { frames, index } = this;
    if (!frames) return null;
    let found = null;
    for (let place = frames.parts - 1; place >= 0 && !found; place -= 1) {
      const part = frames.order[index * frames.parts + place];
      const entry = this.parts[part];
      if (!entry || frames.opacity[index * frames.parts + part] <= 0 || (entry.locked && !all)) continue;
      const shows = shownOf(frames, index, part, entry, this.art);
      const point = new DOMMatrix([...frames.matrix(index, part)]).inverse().transformPoint({ x, y });
      if (shows?.drawing.hit(this.probe, point.x, point.y, shows.bent)) found = entry;
    }
    return found;
  }

  #panAndZoom() {
    const { host } = this;
    let from = null;
    host.addEventListener("wheel", (event) => {
      event.preventDefault();
      const box = host.getBoundingClientRect();
      this.zoom(Math.exp(-event.deltaY * 0.0015), [event.clientX - box.left, event.clientY - box.top]);
    }, { passive: false });
    host.addEventListener("pointerdown", (event) => {
      if (event.button !== 1 && !(event.button === 0 && this.spaceDown)) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      from = [event.clientX - this.view.x, event.clientY - this.view.y];
      host.setPointerCapture(event.pointerId);
      host.classList.add("panning");
    }, { capture: true });
    host.addEventListener("pointermove", (event) => {
      if (!from) return;
      this.moved = true;
      this.view.x = event.clientX - from[0];
      this.view.y = event.clientY - from[1];
      this.redraw();
    });
    for (const kind of ["pointerup", "pointercancel"]) {
      host.addEventListener(kind, () => { from = null; host.classList.remove("panning"); });
    }
  }
}
