// Guides: pictures under or over the stage. Here they are fetched, kept and drawn, in the painter.

export class GuideShelf {
  constructor(onReady) {
    this.onReady = onReady;
    this.kept = new Map();
  }

  /** A picture by its hash, or null while it is on its way. */
  #picture(hash) {
    if (!this.kept.has(hash)) {
      this.kept.set(hash, null);
      fetch(`/blobs/${hash}`).then((answer) => answer.blob()).then(createImageBitmap).then((picture) => {
        this.kept.set(hash, picture);
        this.onReady();
      }).catch(() => this.kept.delete(hash)); // then it is asked for again with the next picture
    }
    return this.kept.get(hash);
  }

  /** guides: [{ hash, x, y, width, height, scale, opacity, turned }], in pixels of the stage, by their middle. */
  paint(ctx, guides) {
    for (const { hash, x, y, width, height, scale, opacity, turned } of guides) {
      const picture = this.#picture(hash);
      if (!picture) continue;
      ctx.save();
      ctx.globalAlpha = opacity;
      ctx.translate(x, y);
      ctx.scale(turned ? -scale : scale, scale);
      ctx.drawImage(picture, -width / 2, -height / 2, width, height);
      ctx.restore();
    }
  }
}

/** What of a guide is seen on a frame. */
export function guideAt(guide, frame) {
  const many = guide.pictures.length, since = Math.floor(frame - guide.start);
  const index = guide.loops ? ((since % many) + many) % many : Math.max(0, Math.min(many - 1, since));
  const { x, y, width, height, scale, opacity, over, turned } = guide;
  return { hash: guide.pictures[index], x, y, width, height, scale, opacity, over, turned };
}
