// The stage: a canvas with the artwork and, above it, an SVG with everything that can be grabbed.
import { ArtShelf } from "./art.js";

const SVG = "http://www.w3.org/2000/svg";

export function svg(name, attributes = {}, parent = null) {
  const element = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  parent?.append(element);
  return element;
}

export class Stage {
  constructor(host) {
    this.host = host;
    this.canvas = document.createElement("canvas");
    this.overlay = svg("svg", { "aria-label": "Handles" });
    host.append(this.canvas, this.overlay);
    this.ctx = this.canvas.getContext("2d");
    this.art = new ArtShelf(() => this.redraw());
    this.parts = [];
    this.frames = null;
    this.index = 0;
    this.view = { scale: 1, x: 0, y: 0 };
    this.listeners = [];
    this.underlay = null;
    this.veil = null;
    new ResizeObserver(() => this.resize()).observe(host);
    this.#panAndZoom();
  }

  onDraw(listener) { this.listeners.push(listener); }

  resize() {
    const { clientWidth: w, clientHeight: h } = this.host;
    const ratio = window.devicePixelRatio || 1;
    if (!w || !h) return;
    this.canvas.width = Math.round(w * ratio);
    this.canvas.height = Math.round(h * ratio);
    this.ratio = ratio;
    if (this.box && !this.moved) this.fit(this.box, this.room);
    else this.redraw();
  }

  /** Fetch what art is missing; the parts themselves are set together with their frames. */
  fetchArt(parts) { return this.art.fetch(parts.map((part) => part.art)); }

  show(frames, index = 0) {
    this.frames = frames;
    this.index = index;
    this.redraw();
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

  redraw() {
    if (this.asked) return;
    this.asked = requestAnimationFrame(() => { this.asked = 0; this.paint(); });
  }

  paint() {
    const { ctx, ratio, view } = this;
    if (!ratio) return;
    ctx.resetTransform();
    ctx.clearRect(0, 0, this.canvas.width, this.canvas.height);
    const k = view.scale * ratio, ox = view.x * ratio, oy = view.y * ratio;
    ctx.setTransform(k, 0, 0, k, ox, oy);
    this.underlay?.(ctx, this);
    if (this.frames) this.paintParts(ctx, k, ox, oy);
    ctx.setTransform(k, 0, 0, k, ox, oy);
    this.veil?.(ctx, this);
    this.painted = (this.painted ?? 0) + 1;
    for (const listener of this.listeners) listener(this);
  }

  paintParts(ctx, k, ox, oy) {
    const { frames, index } = this;
    for (let place = 0; place < frames.parts; place += 1) {
      const part = frames.order[index * frames.parts + place];
      const opacity = frames.opacity[index * frames.parts + part];
      const drawing = this.parts[part] && this.art.get(this.parts[part].art);
      if (!drawing || opacity <= 0) continue;
      const [a, b, c, d, e, f] = frames.matrix(index, part);
      ctx.setTransform(a * k, b * k, c * k, d * k, e * k + ox, f * k + oy);
      drawing.draw(ctx, opacity);
    }
  }

  /** The frontmost part under a point of the stage, or null. */
  partAt(x, y, all = false) {
    const { frames, index } = this;
    if (!frames) return null;
    this.ctx.save();
    this.ctx.resetTransform();
    let found = null;
    for (let place = frames.parts - 1; place >= 0 && !found; place -= 1) {
      const part = frames.order[index * frames.parts + place];
      const entry = this.parts[part];
      if (!entry || frames.opacity[index * frames.parts + part] <= 0 || (entry.locked && !all)) continue;
      const drawing = this.art.get(entry.art);
      const point = new DOMMatrix([...frames.matrix(index, part)]).inverse().transformPoint({ x, y });
      if (drawing?.hit(this.ctx, point.x, point.y)) found = entry;
    }
    this.ctx.restore();
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
