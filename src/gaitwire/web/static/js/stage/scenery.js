// What lies under and over the artwork of a stage: the page, the floor line, the paper beyond the edge.

const FAR = 40000;

/** scenery: { page: { size, color } | null, line: { y, color, width, dash } | null, veil: color | null }. */
export function paintUnder(ctx, { page, line, veil, ground }, scale) {
  if (page) {
    ctx.fillStyle = page.color;
    ctx.fillRect(0, 0, ...page.size);
  }
  if (ground) {
    ctx.fillStyle = ground.color;
    ctx.fillRect(-FAR, ground.y, 2 * FAR, FAR);
  }
  if (line && !veil) paintLine(ctx, line, -FAR, FAR, scale);
}

export function paintOver(ctx, { page, line, veil }, scale) {
  if (!veil || !page) return;
  const [w, h] = page.size;
  ctx.fillStyle = veil;
  ctx.beginPath();
  ctx.rect(-FAR, -FAR, 2 * FAR + w, 2 * FAR + h);
  ctx.rect(0, 0, w, h);
  ctx.fill("evenodd");
  if (line) paintLine(ctx, line, 0, w, scale);
}

/** The lines of a grid, in one path. */
export function paintGrid(ctx, { page, grid }, scale) {
  if (!page || !grid?.size || grid.size * scale < 4) return;
  const [w, h] = page.size;
  ctx.strokeStyle = grid.color;
  ctx.lineWidth = 1 / scale;
  ctx.beginPath();
  for (let x = grid.size; x < w; x += grid.size) { ctx.moveTo(x, 0); ctx.lineTo(x, h); }
  for (let y = grid.size; y < h; y += grid.size) { ctx.moveTo(0, y); ctx.lineTo(w, y); }
  ctx.stroke();
}

function paintLine(ctx, { y, color, width, dash }, x0, x1, scale) {
  ctx.strokeStyle = color;
  ctx.lineWidth = width / scale;
  ctx.setLineDash(dash.map((d) => d / scale));
  ctx.beginPath();
  ctx.moveTo(x0, y);
  ctx.lineTo(x1, y);
  ctx.stroke();
  ctx.setLineDash([]);
}
