// Evaluated frames as they come over the wire: views into one buffer, nothing decoded.

const MAGIC = 0x33465747;

export class Frames {
  buffer; count; nodes; offset; parts; points; stamp;
  constructor(buffer, offset = 0) {
    const head = new Uint32Array(buffer, offset, 8);
    if (head[0] !== MAGIC) throw new Error("these are no frames");
    Object.assign(this, { buffer, offset });
    [, this.count, this.parts, this.nodes, this.stamp, this.points] = head;
    let at = offset + 32;
    const section = (length) => {
      const view = new Float32Array(buffer, at, length);
      at += length * 4;
      return view;
    };
    this.times = section(this.count);
    this.matrices = section(this.count * this.parts * 6);
    this.opacity = section(this.count * this.parts);
    this.order = section(this.count * this.parts);
    this.bones = section(this.count * this.nodes * 6);
    this.drawing = section(this.count * this.parts);
    this.bent = section(this.count * this.points * 2);
    this.fade = section(this.count * this.parts); // of the puppet that a part is of, as one picture
  }

  matrix(frame, part) {
    const at = (frame * this.parts + part) * 6;
    return this.matrices.subarray(at, at + 6);
  }

  /** All points of soft parts on a frame, x and y in turn, each in its part's own pixels. */
  pointsOf(frame) {
    return this.bent.subarray(frame * this.points * 2, (frame + 1) * this.points * 2);
  }

  bone(frame, node) {
    const at = (frame * this.nodes + node) * 6;
    return this.bones.subarray(at, at + 6);
  }
}

/** Where the frame of a reply begins, behind its head. */
const behind = (buffer) => 4 + new DataView(buffer).getUint32(0, true);

/** The JSON head of a reply. */
export const headOf = (buffer) => JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, behind(buffer) - 4)));

/** Its frame, if there is one. */
export const framesOf = (buffer) => (buffer.byteLength > behind(buffer) ? new Frames(buffer, behind(buffer)) : null);
