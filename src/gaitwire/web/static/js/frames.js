// Evaluated frames as they come over the wire: views into one buffer, nothing decoded.

const MAGIC = 0x31465747;

export class Frames {
  constructor(buffer, offset = 0) {
    const head = new Uint32Array(buffer, offset, 8);
    if (head[0] !== MAGIC) throw new Error("these are no frames");
    Object.assign(this, { buffer, offset });
    [, this.count, this.parts, this.nodes, this.stamp] = head;
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
  }

  matrix(frame, part) {
    const at = (frame * this.parts + part) * 6;
    return this.matrices.subarray(at, at + 6);
  }

  bone(frame, node) {
    const at = (frame * this.nodes + node) * 6;
    return this.bones.subarray(at, at + 6);
  }
}

/** A live reply: a JSON head and, if there is one, a frame. */
export function unpackReply(buffer) {
  const length = new DataView(buffer).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
  return { head, frames: buffer.byteLength > 4 + length ? new Frames(buffer, 4 + length) : null };
}
