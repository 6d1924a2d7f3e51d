// The painter: a worker that draws the stage, so that drawing never waits for the page nor the page for it.
import { ArtShelf } from "./art.js";
import { Frames, framesOf } from "./frames.js";
import { GuideShelf } from "./guides.js";
import { paintGrid, paintOver, paintUnder } from "./scenery.js";
import { shownOf } from "./shown.js";

const art = new ArtShelf(() => redraw());
/** @type {Record<string, any>} */
const shown = { view: { scale: 1, x: 0, y: 0 }, scenery: {}, parts: [], frames: null, index: 0, turn: 0, ghosts: [] };
const guides = new GuideShelf(() => redraw());
let coming = null, ctx = null, veil = null, ratio = 1, asked = 0, answered = 0;

function redraw() { asked ||= requestAnimationFrame(() => { asked = 0; paint(); }); }

function paint() {
  if (!ctx) return;
  const { view, scenery, frames } = shown;
  const k = view.scale * ratio, ox = view.x * ratio, oy = view.y * ratio;
  ctx.resetTransform();
  ctx.clearRect(0, 0, ctx.canvas.width, ctx.canvas.height);
  ctx.setTransform(k, 0, 0, k, ox, oy);
  paintUnder(ctx, scenery, view.scale);
  const { ghosts } = shown;
  const under = ghosts.filter((ghost) => !ghost.over);
  // Beneath the puppets, but above what is the background's.
  const first = (part) => { if (under.length && under[0].of.includes(part?.instance)) for (const ghost of under.splice(0)) paintGhost(ghost, k, ox, oy); };
  const low = scenery.guides?.filter((guide) => !guide.over) ?? [], high = scenery.guides?.filter((guide) => guide.over) ?? [];
  let background = scenery.backdrop?.length > 0;
  const laid = () => { background = false; ctx.setTransform(k, 0, 0, k, ox, oy); guides.paint(ctx, low); paintGrid(ctx, scenery, view.scale); };
  // Guides that lie under lie above what is the background's.
  const reach = (part) => { if (background && !scenery.backdrop.includes(part?.instance)) laid(); first(part); };
  if (!background) laid();
  if (frames) paintParts(ctx, frames, shown.index, k, ox, oy, null, reach);
  if (background) laid();
  ctx.setTransform(k, 0, 0, k, ox, oy);
  guides.paint(ctx, high);
  for (const ghost of ghosts) if (ghost.over) paintGhost(ghost, k, ox, oy);
  ctx.setTransform(k, 0, 0, k, ox, oy);
  paintOver(ctx, scenery, view.scale);
  postMessage({ kind: "painted", wait: answered ? performance.now() - answered : null });
  answered = 0;
}

/** Another frame of the puppets, under or over this one: in one tint, and fading. */
function paintGhost({ frames, index, tint, strength, of }, k, ox, oy) {
  const buffer = frames ? new Frames(frames.buffer, frames.offset) : shown.all;
  if (buffer && index < buffer.count) paintFaint(buffer, index, k, ox, oy, of, strength, tint);
}

/** Some puppets as one picture that shows through; with a `tint`, in one colour. */
function paintFaint(buffer, index, k, ox, oy, of, strength, tint = null) {
  const { width, height } = ctx.canvas;
  veil ??= new OffscreenCanvas(1, 1).getContext("2d");
  Object.assign(veil.canvas, { width, height }); // which clears it
  paintParts(veil, buffer, index, k, ox, oy, of);
  veil.resetTransform();
  if (tint) {
    veil.globalAlpha = 0.55;
    veil.globalCompositeOperation = "source-atop";
    veil.fillStyle = tint;
    veil.fillRect(0, 0, width, height);
  }
  ctx.resetTransform();
  ctx.globalAlpha = strength;
  ctx.drawImage(veil.canvas, 0, 0);
  ctx.globalAlpha = 1;
}

/** The parts of a frame, back to front; with `of`, only those of some instances. `before` is told of each.
 * A puppet that fades, or is a guide, shows through as a whole: its parts are painted together, where the first lies. */
function paintParts(on, frames, index, k, ox, oy, of = null, before = (/** @type {any} */ _part) => {}) {
  const { parts, scenery: { faint = {} } } = shown;
  const done = new Set();
  for (let place = 0; place < frames.parts; place += 1) {
    const part = frames.order[index * frames.parts + place];
    const at = index * frames.parts + part, opacity = frames.opacity[at];
    if (of && !of.includes(parts[part]?.instance)) continue;
    before(parts[part]);
    const whose = parts[part]?.instance;
    const left = of ? 1 : (faint[whose] ?? 1) * frames.fade[at];
    if (left < 1) {
      if (!done.has(whose)) paintFaint(frames, index, k, ox, oy, [whose], left);
      done.add(whose);
      continue;
    }
    const shows = opacity > 0 ? shownOf(frames, index, part, parts[part], art) : null;
    if (!shows) continue;
    const [a, b, c, d, e, f] = frames.matrix(index, part);
    on.setTransform(a * k, b * k, c * k, d * k, e * k + ox, f * k + oy);
    shows.drawing.draw(on, opacity, shows.bent);
  }
}

/** A drag's answer comes straight from its own line. */
function onLive({ data: { reply, turn } }) {
  const frames = framesOf(reply);
  if (!frames || turn !== shown.turn) return;
  Object.assign(shown, { frames, index: 0 });
  answered ||= performance.now();
  redraw();
}

const KINDS = {
  canvas({ canvas }) { ctx = canvas.getContext("2d"); },
  live({ port }) { port.onmessage = onLive; },
  size({ width, height, ratio: dots }) {
    ratio = dots;
    Object.assign(ctx.canvas, { width, height });
    paint(); // at once: a canvas that changes its size is blank
  },
  show({ view, scenery, index, turn, parts, frames, ghosts }) {
    Object.assign(shown, { view, scenery, index, turn, ghosts });
    if (parts) { shown.parts = parts; coming = art.fetch(parts.flatMap((part) => part.arts)).then(redraw); }
    if (frames) shown.frames = new Frames(frames.buffer, frames.offset);
    if (shown.frames?.count > 1) shown.all = shown.frames; // ghosts are drawn from it, during a drag too
    if (frames) paint(); // somebody waits for these
    else redraw();
  },
  async snapshot() {
    await coming; // a picture of the stage has all its pictures
    paint();
    postMessage({ kind: "snapshot", blob: await ctx.canvas.convertToBlob() });
  },
};

addEventListener("message", ({ data }) => KINDS[data.kind](data));
