// A frame of some puppets as a small picture.
import { shownOf } from "./shown.js";

/** Draw the parts that are wanted into a canvas of some size, so that a box of stage pixels fills it. */
export function drawThumb(canvas, /** @type {number[]} */ [w, h], /** @type {number[]} */ [x0, y0, x1, y1], { frames, index, parts, art }, wanted = (/** @type {any} */ _part) => true) {
  const ratio = window.devicePixelRatio || 1;
  Object.assign(canvas, { width: w * ratio, height: h * ratio });
  const k = Math.min(w / (x1 - x0), h / (y1 - y0)) * ratio;
  const ox = canvas.width / 2 - ((x0 + x1) / 2) * k, oy = canvas.height / 2 - ((y0 + y1) / 2) * k;
  const ctx = canvas.getContext("2d");
  for (let place = 0; place < frames.parts; place += 1) {
    const part = frames.order[index * frames.parts + place];
    const opacity = frames.opacity[index * frames.parts + part] * frames.fade[index * frames.parts + part];
    const shows = parts[part] && wanted(parts[part]) && opacity > 0 ? shownOf(frames, index, part, parts[part], art) : null;
    if (!shows) continue;
    const [a, b, c, d, e, f] = frames.matrix(index, part);
    ctx.setTransform(a * k, b * k, c * k, d * k, e * k + ox, f * k + oy);
    shows.drawing.draw(ctx, opacity, shows.bent);
  }
}
