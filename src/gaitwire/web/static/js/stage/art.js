// Artwork, compiled once to paths and paints, and drawn on a canvas; of soft parts the paths are made anew.
import { Texture, paintMesh } from "./mesh.js";
import { bentPath, commandsOf } from "./shown.js";

function linear(ctx, g) {
  // A linear gradient under a matrix is a linear gradient again: its value is an affine function.
  const [a, b, c, d, e, f] = g.matrix;
  const [x1, y1, x2, y2] = g.coords;
  const dx = x2 - x1, dy = y2 - y1, len = dx * dx + dy * dy, det = a * d - b * c;
  if (!len || !det) return null;
  const ux = (d * dx - b * dy) / det / len, uy = (-c * dx + a * dy) / det / len;
  const size = ux * ux + uy * uy;
  const px = a * x1 + c * y1 + e, py = b * x1 + d * y1 + f;
  return ctx.createLinearGradient(px, py, px + ux / size, py + uy / size);
}

function radial(ctx, g, own) {
  const [cx, cy, r, fx, fy, fr] = g.coords;
  if (own) return ctx.createRadialGradient(fx, fy, fr, cx, cy, r);
  const [a, b, c, d, e, f] = g.matrix;
  const s = Math.sqrt(Math.abs(a * d - b * c));
  return ctx.createRadialGradient(a * fx + c * fy + e, b * fx + d * fy + f, fr * s, a * cx + c * cy + e, b * cx + d * cy + f, r * s);
}

function tint(color, opacity) {
  if (opacity >= 1) return color;
  const n = parseInt(color.slice(1), 16);
  return `rgb(${n >> 16} ${(n >> 8) & 255} ${n & 255} / ${opacity})`;
}

function paintStyle(ctx, paint, own = false) {
  if (paint.kind === "solid") return tint(paint.color, paint.opacity ?? 1);
  const gradient = paint.kind === "linear" ? linear(ctx, paint) : radial(ctx, paint, own);
  if (!gradient) return tint(paint.stops.at(-1)[1], paint.stops.at(-1)[2]);
  for (const [offset, color, opacity] of paint.stops) gradient.addColorStop(offset, tint(color, opacity * (paint.opacity ?? 1)));
  return gradient;
}

function needsOwnSpace(paint) {
  if (paint?.kind !== "radial") return false;
  const [a, b, c, d] = paint.matrix;
  return Math.abs(a - d) > 1e-3 * Math.abs(a) || Math.abs(b + c) > 1e-3 * Math.abs(a);
}

class ShapeDrawing {
  constructor(shape) {
    this.shape = shape;
    this.path = new Path2D(shape.d);
    this.commands = commandsOf(shape.d);
    if (shape.fill && needsOwnSpace(shape.fill)) {
      this.space = shape.fill.matrix;
      this.own = new Path2D();
      this.own.addPath(this.path, new DOMMatrix(this.space).inverse());
    }
  }

  draw(ctx, alpha, bent) {
    const { shape } = this;
    const faded = alpha * (shape.opacity ?? 1), path = bent ? bentPath(this.commands, bent) : this.path;
    if (faded < 1 && shape.fill && shape.stroke) {
      layered(ctx, faded, (target) => this.lay(target, path));
      return;
    }
    const before = ctx.globalAlpha;
    ctx.globalAlpha = before * faded;
    this.lay(ctx, path);
    ctx.globalAlpha = before;
  }

  lay(ctx, path) {
    const { shape } = this;
    if (shape.matrix) { ctx.save(); ctx.transform(...shape.matrix); }
    const order = shape.stroke_first ? ["stroke", "fill"] : ["fill", "stroke"];
    for (const what of order) {
      if (what === "fill" && shape.fill) this.fill(ctx, path);
      if (what === "stroke" && shape.stroke) this.stroke(ctx, path);
    }
    if (shape.matrix) ctx.restore();
  }

  fill(ctx, path) {
    const { shape } = this;
    ctx.fillStyle = paintStyle(ctx, shape.fill, Boolean(this.own));
    if (!this.own) { ctx.fill(path, shape.rule ?? "nonzero"); return; }
    let own = this.own;
    if (path !== this.path) {
      own = new Path2D();
      own.addPath(path, new DOMMatrix(this.space).inverse());
    }
    ctx.save();
    ctx.transform(...this.space);
    ctx.fill(own, shape.rule ?? "nonzero");
    ctx.restore();
  }

  stroke(ctx, path) {
    const s = this.shape.stroke;
    ctx.strokeStyle = paintStyle(ctx, s.paint);
    ctx.lineWidth = s.width;
    ctx.lineCap = s.cap ?? "butt";
    ctx.lineJoin = s.join ?? "miter";
    ctx.miterLimit = s.miter ?? 4;
    ctx.setLineDash(s.dash ?? []);
    ctx.lineDashOffset = s.dash_offset ?? 0;
    ctx.stroke(path);
  }

  hit(ctx, x, y, bent) {
    const { shape } = this, path = bent ? bentPath(this.commands, bent) : this.path;
    let px = x, py = y;
    if (shape.matrix) ({ x: px, y: py } = new DOMMatrix(shape.matrix).inverse().transformPoint({ x, y }));
    if (shape.fill && ctx.isPointInPath(path, px, py, shape.rule ?? "nonzero")) return true;
    if (!shape.stroke) return false;
    ctx.lineWidth = Math.max(shape.stroke.width, 3);
    return ctx.isPointInStroke(path, px, py);
  }
}

class PictureDrawing {
  texture;
  constructor(picture, onLoad) {
    this.picture = picture;
    this.image = null;
    this.inverse = new DOMMatrix(picture.matrix).inverse();
    this.#load(onLoad);
  }

  async #load(onLoad) {
    this.image = await createImageBitmap(await (await fetch(`/blobs/${this.picture.hash}`)).blob());
    onLoad();
  }

  draw(ctx, alpha, bent) {
    if (!this.image) return;
    if (bent) {
      this.texture ??= new Texture(this.image);
      paintMesh(ctx, this.texture, this.picture.matrix, bent.soft.mesh, bent.points, bent.soft.start, alpha * (this.picture.opacity ?? 1));
      return;
    }
    ctx.save();
    ctx.transform(...this.picture.matrix);
    ctx.globalAlpha *= alpha * (this.picture.opacity ?? 1);
    ctx.imageSmoothingQuality = "high"; // else a picture shown small is ragged
    ctx.drawImage(this.image, 0, 0, this.picture.width, this.picture.height);
    ctx.restore();
  }

  hit(ctx, x, y, bent) {
    if (bent) return inMesh(bent, x, y);
    const p = this.inverse.transformPoint({ x, y });
    const inside = p.x >= 0 && p.y >= 0 && p.x < this.picture.width && p.y < this.picture.height;
    if (!inside || !this.image) return inside;
    this.texture ??= new Texture(this.image);
    const [{ width, height, data }] = this.texture.levels;
    const column = Math.floor((p.x * width) / this.picture.width), row = Math.floor((p.y * height) / this.picture.height);
    return data[(row * width + column) * 4 + 3] > 20; // what cannot be seen cannot be caught
  }
}

/** Whether a point lies in one of the triangles of a mesh as it is now. */
function inMesh({ points, soft: { start, mesh: { triangles } } }, x, y) {
  const side = (p, q) => (points[q * 2] - points[p * 2]) * (y - points[p * 2 + 1]) - (points[q * 2 + 1] - points[p * 2 + 1]) * (x - points[p * 2]);
  for (let n = 0; n < triangles.length; n += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => start + triangles[n + k]);
    const ab = side(a, b), bc = side(b, c), ca = side(c, a);
    if ((ab >= 0 && bc >= 0 && ca >= 0) || (ab <= 0 && bc <= 0 && ca <= 0)) return true;
  }
  return false;
}

class GroupDrawing {
  constructor(group, onLoad) {
    this.opacity = group.opacity ?? 1;
    this.children = group.children.map((node) => compileNode(node, onLoad));
    this.clips = (group.clips ?? []).map((clip) => {
      const rules = new Set(clip.paths.map(([, rule]) => rule));
      const path = new Path2D();
      for (const [d] of clip.paths) path.addPath(new Path2D(d));
      return { path, rule: rules.size === 1 ? [...rules][0] : "nonzero", commands: clip.paths.map(([d]) => commandsOf(d)) };
    });
  }

  /** The clips' paths; bent ones take their points before the children do. */
  paths(bent) {
    return this.clips.map(({ path, rule, commands }) => {
      if (!bent) return [path, rule];
      const joined = new Path2D();
      for (const one of commands) joined.addPath(bentPath(one, bent));
      return [joined, rule];
    });
  }

  draw(ctx, alpha, bent) {
    const faded = alpha * this.opacity, clips = this.paths(bent);
    const all = (target) => {
      target.save();
      for (const [path, rule] of clips) target.clip(path, rule);
      for (const child of this.children) child.draw(target, 1, bent);
      target.restore();
    };
    if (faded < 1) layered(ctx, faded, all);
    else all(ctx);
  }

  hit(ctx, x, y, bent) {
    const inside = this.paths(bent).every(([path, rule]) => ctx.isPointInPath(path, x, y, rule));
    return this.children.map((c) => c.hit(ctx, x, y, bent)).some(Boolean) && inside; // every child takes its points
  }
}

/** Draw on a sheet of its own, then lay it on as one, faded. */
function layered(ctx, alpha, draw) {
  const { width, height } = ctx.canvas;
  const sheet = new OffscreenCanvas(width, height);
  const target = sheet.getContext("2d");
  target.setTransform(ctx.getTransform());
  draw(target);
  ctx.save();
  ctx.resetTransform();
  ctx.globalAlpha *= alpha;
  ctx.drawImage(sheet, 0, 0);
  ctx.restore();
}

function compileNode(node, onLoad) {
  if (node.kind === "shape") return new ShapeDrawing(node);
  return node.kind === "picture" ? new PictureDrawing(node, onLoad) : new GroupDrawing(node, onLoad);
}

export class ArtDrawing {
  constructor(art, onLoad) {
    this.box = art.box;
    this.nodes = art.nodes.map((node) => compileNode(node, onLoad));
  }

  draw(ctx, opacity, bent = null) {
    const all = (target) => { for (const node of this.nodes) node.draw(target, 1, bent); };
    bent?.rewind();
    if (opacity >= 1) all(ctx);
    else layered(ctx, opacity, all);
  }

  hit(ctx, x, y, bent = null) {
    bent?.rewind();
    return this.nodes.map((node) => node.hit(ctx, x, y, bent)).some(Boolean);
  }
}

/** Compiled artwork by hash, asked for in one go and kept. */
export class ArtShelf {
  constructor(onLoad) { this.kept = new Map(); this.onLoad = onLoad; }

  async fetch(hashes) {
    const missing = [...new Set(hashes)].filter((hash) => !this.kept.has(hash));
    for (let at = 0; at < missing.length; at += 100) {
      const query = missing.slice(at, at + 100).map((name) => `h=${encodeURIComponent(name)}`).join("&");
      const arts = await (await fetch(`/art?${query}`)).json();
      for (const [hash, art] of Object.entries(arts)) this.kept.set(hash, new ArtDrawing(art, this.onLoad));
    }
  }

  get(hash) { return this.kept.get(hash); }
}
