// Textured triangles, drawn pixel by pixel: no seams, since a pixel between two triangles belongs to one of them.
//
// Each row of a triangle runs between the places where its sides cross the row's middle, and a side
// is worked out from the same two points for both triangles that share it. The outline is smooth
// because the mesh reaches beyond the picture, and beyond its own edge a picture shows nothing.

/** A picture's pixels with alpha multiplied in, and the same at half, a quarter, ... of the size. */
export class Texture {
  constructor(image) {
    const { width, height } = image;
    const ctx = new OffscreenCanvas(width, height).getContext("2d", { willReadFrequently: true });
    ctx.drawImage(image, 0, 0);
    const { data } = ctx.getImageData(0, 0, width, height);
    for (let i = 0; i < data.length; i += 4) {
      const a = data[i + 3] / 255;
      data[i] *= a; data[i + 1] *= a; data[i + 2] *= a;
    }
    this.levels = [{ width, height, data }];
  }

  /** The level at which one of its pixels is about as large as one on the screen. */
  level(shrink) {
    const wanted = Math.max(0, Math.min(6, Math.floor(Math.log2(Math.max(shrink, 1)) + 0.25)));
    while (this.levels.length <= wanted) {
      const last = this.levels.at(-1);
      if (last.width < 4 || last.height < 4) return last;
      this.levels.push(halved(last));
    }
    return this.levels[wanted];
  }
}

function halved({ width, height, data }) {
  const w = (width + 1) >> 1, h = (height + 1) >> 1, out = new Uint8ClampedArray(w * h * 4);
  for (let y = 0; y < h; y += 1) {
    for (let x = 0; x < w; x += 1) {
      for (let k = 0; k < 4; k += 1) {
        let sum = 0;
        for (const [dx, dy] of [[0, 0], [1, 0], [0, 1], [1, 1]]) {
          const sx = 2 * x + dx, sy = 2 * y + dy;
          if (sx < width && sy < height) sum += data[(sy * width + sx) * 4 + k];
        }
        out[(y * w + x) * 4 + k] = sum / 4;
      }
    }
  }
  return { width: w, height: h, data: out };
}

const sheet = { canvas: null, ctx: null, image: null };

function sheetOf(width, height) {
  if (!sheet.canvas || sheet.canvas.width < width || sheet.canvas.height < height) {
    const w = Math.max(width, sheet.canvas?.width ?? 0), h = Math.max(height, sheet.canvas?.height ?? 0);
    sheet.canvas = new OffscreenCanvas(w, h);
    sheet.ctx = sheet.canvas.getContext("2d");
  }
  return new ImageData(width, height);
}

/** One sample of a level, between four of its pixels; outside there is nothing. */
function blendInto(out, at, { width, height, data }, u, v) {
  const x = Math.floor(u), y = Math.floor(v), fx = u - x, fy = v - y;
  let r = 0, g = 0, b = 0, a = 0;
  for (let corner = 0; corner < 4; corner += 1) {
    const sx = x + (corner & 1), sy = y + (corner >> 1);
    if (sx < 0 || sy < 0 || sx >= width || sy >= height) continue;
    const share = (corner & 1 ? fx : 1 - fx) * (corner >> 1 ? fy : 1 - fy), i = (sy * width + sx) * 4;
    r += data[i] * share; g += data[i + 1] * share; b += data[i + 2] * share; a += data[i + 3] * share;
  }
  if (a < 0.5) return;
  const under = (1 - a / 255) * (out[at + 3] / 255); // what an earlier triangle left, where the mesh folds over itself
  const whole = a + out[at + 3] * (1 - a / 255);
  out[at] = ((r / 255 + (out[at] / 255) * under) * 255 * 255) / whole;
  out[at + 1] = ((g / 255 + (out[at + 1] / 255) * under) * 255 * 255) / whole;
  out[at + 2] = ((b / 255 + (out[at + 2] / 255) * under) * 255 * 255) / whole;
  out[at + 3] = whole;
}

/** Where a side crosses a row, the same whichever way round the side is given. */
function crossing(xs, ys, p, q, row) {
  const [a, b] = p < q ? [p, q] : [q, p];
  return xs[a] + ((row - ys[a]) * (xs[b] - xs[a])) / (ys[b] - ys[a]);
}

function fillTriangle(out, box, xs, ys, us, vs, [a, b, c], level) {
  const det = (xs[b] - xs[a]) * (ys[c] - ys[a]) - (ys[b] - ys[a]) * (xs[c] - xs[a]);
  if (!det) return;
  const dudx = ((us[b] - us[a]) * (ys[c] - ys[a]) - (us[c] - us[a]) * (ys[b] - ys[a])) / det;
  const dudy = ((us[c] - us[a]) * (xs[b] - xs[a]) - (us[b] - us[a]) * (xs[c] - xs[a])) / det;
  const dvdx = ((vs[b] - vs[a]) * (ys[c] - ys[a]) - (vs[c] - vs[a]) * (ys[b] - ys[a])) / det;
  const dvdy = ((vs[c] - vs[a]) * (xs[b] - xs[a]) - (vs[b] - vs[a]) * (xs[c] - xs[a])) / det;
  const sides = [[a, b], [b, c], [c, a]];
  const top = Math.max(Math.ceil(Math.min(ys[a], ys[b], ys[c]) - 0.5), box.y0);
  const end = Math.min(Math.ceil(Math.max(ys[a], ys[b], ys[c]) - 0.5), box.y1);
  for (let y = top; y < end; y += 1) {
    const row = y + 0.5;
    let left = Infinity, right = -Infinity;
    for (const [p, q] of sides) {
      if ((ys[p] <= row) === (ys[q] <= row)) continue;
      const x = crossing(xs, ys, p, q, row);
      left = Math.min(left, x); right = Math.max(right, x);
    }
    const from = Math.max(Math.ceil(left - 0.5), box.x0), to = Math.min(Math.ceil(right - 0.5), box.x1);
    let u = us[a] + (from + 0.5 - xs[a]) * dudx + (row - ys[a]) * dudy - 0.5;
    let v = vs[a] + (from + 0.5 - xs[a]) * dvdx + (row - ys[a]) * dvdy - 0.5;
    for (let x = from, at = ((y - box.y0) * box.w + from - box.x0) * 4; x < to; x += 1, at += 4) {
      blendInto(out, at, level, u, v);
      u += dudx; v += dvdx;
    }
  }
}

/**
 * Draw a picture on a mesh. `place` maps the picture's pixels to the part's; `mesh` is { rest, triangles },
 * rest being the vertices that the picture was laid on; `vertices` (from index `start`) are where they now are.
 */
export function paintMesh(ctx, texture, place, mesh, vertices, start, alpha) {
  const t = ctx.getTransform(), inverse = new DOMMatrix(place).inverse(), count = mesh.rest.length / 2;
  const [xs, ys, us, vs] = [0, 0, 0, 0].map(() => new Float64Array(count));
  const box = { x0: Infinity, y0: Infinity, x1: -Infinity, y1: -Infinity };
  for (let i = 0; i < count; i += 1) {
    const x = vertices[(start + i) * 2], y = vertices[(start + i) * 2 + 1], rx = mesh.rest[i * 2], ry = mesh.rest[i * 2 + 1];
    xs[i] = t.a * x + t.c * y + t.e;
    ys[i] = t.b * x + t.d * y + t.f;
    us[i] = inverse.a * rx + inverse.c * ry + inverse.e;
    vs[i] = inverse.b * rx + inverse.d * ry + inverse.f;
    box.x0 = Math.min(box.x0, xs[i]); box.x1 = Math.max(box.x1, xs[i]);
    box.y0 = Math.min(box.y0, ys[i]); box.y1 = Math.max(box.y1, ys[i]);
  }
  box.x0 = Math.max(Math.floor(box.x0), 0); box.y0 = Math.max(Math.floor(box.y0), 0);
  box.x1 = Math.min(Math.ceil(box.x1), ctx.canvas.width); box.y1 = Math.min(Math.ceil(box.y1), ctx.canvas.height);
  box.w = box.x1 - box.x0;
  const h = box.y1 - box.y0;
  if (box.w <= 0 || h <= 0) return;
  const level = texture.level(Math.sqrt(Math.abs((inverse.a * inverse.d - inverse.b * inverse.c) / (t.a * t.d - t.b * t.c))));
  const shrink = level.width / texture.levels[0].width, squeeze = level.height / texture.levels[0].height;
  for (let i = 0; i < count; i += 1) { us[i] *= shrink; vs[i] *= squeeze; }
  const image = sheetOf(box.w, h), { triangles } = mesh;
  for (let n = 0; n < triangles.length; n += 3) fillTriangle(image.data, box, xs, ys, us, vs, triangles.slice(n, n + 3), level);
  sheet.ctx.putImageData(image, 0, 0);
  ctx.save();
  ctx.resetTransform();
  ctx.globalAlpha *= alpha;
  ctx.drawImage(sheet.canvas, 0, 0, box.w, h, box.x0, box.y0, box.w, h);
  ctx.restore();
}
