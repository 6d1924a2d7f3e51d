// What a part shows on a frame: which of its drawings, and, if it bends, where the points of that are.

/** { drawing, bent } of a part, or null while its art is not there. `entry`: { arts, soft } as the server tells them. */
export function shownOf(frames, index, part, entry, shelf) {
  const number = frames.drawing[index * frames.parts + part];
  const drawing = entry && shelf.get(entry.arts[number] ?? entry.arts[0]);
  if (!drawing) return null;
  if (!entry.soft) return { drawing, bent: null };
  return { drawing, bent: new Bent(frames.pointsOf(index), entry.soft, number) };
}

/** Points of one drawing of a soft part, given out in turn. */
class Bent {
  constructor(points, soft, number) {
    Object.assign(this, { points, soft });
    this.first = this.at = soft.start + soft.vertices + soft.starts[number];
  }

  rewind() { this.at = this.first; }

  take(count) { this.at += count; return this.at - count; }
}

const SIZE = { M: 1, L: 1, C: 3, Z: 0 };

/** The commands of path data of ours, and how many points they have. */
export function commandsOf(d) {
  const letters = d.match(/[MLCZ]/g) ?? [];
  return { letters, size: letters.reduce((sum, letter) => sum + SIZE[letter], 0) };
}

/** A path with its next points from what bends it. */
export function bentPath({ letters, size }, bent) {
  const path = new Path2D(), p = bent.points;
  let i = bent.take(size) * 2;
  for (const letter of letters) {
    if (letter === "C") { path.bezierCurveTo(p[i], p[i + 1], p[i + 2], p[i + 3], p[i + 4], p[i + 5]); i += 6; }
    else if (letter === "M") { path.moveTo(p[i], p[i + 1]); i += 2; }
    else if (letter === "L") { path.lineTo(p[i], p[i + 1]); i += 2; }
    else path.closePath();
  }
  return path;
}

/** The box of stage pixels around the parts that are wanted on a frame, or null for none that shows. */
export function boxOf(frames, index, parts, shelf, wanted) {
  const box = [Infinity, Infinity, -Infinity, -Infinity];
  for (let part = 0; part < frames.parts; part += 1) {
    if (!parts[part] || !wanted(parts[part]) || frames.opacity[index * frames.parts + part] <= 0) continue;
    const shows = shownOf(frames, index, part, parts[part], shelf);
    if (!shows) continue;
    const [a, b, c, d, e, f] = frames.matrix(index, part), [x0, y0, x1, y1] = shows.drawing.box;
    for (const [x, y] of [[x0, y0], [x1, y0], [x0, y1], [x1, y1]]) {
      const px = a * x + c * y + e, py = b * x + d * y + f;
      box[0] = Math.min(box[0], px); box[1] = Math.min(box[1], py);
      box[2] = Math.max(box[2], px); box[3] = Math.max(box[3], py);
    }
  }
  return box[0] < Infinity ? box : null;
}
