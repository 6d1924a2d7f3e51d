// The live drag: the latest pointer wins, the next goes out only after the last reply.
import { unpackReply } from "./frames.js";

export class Live {
  constructor(kind, id, onReply) {
    this.url = `${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/live/${kind}/${id}`;
    this.onReply = onReply;
    this.pending = null;
    this.busy = false;
    this.idle = [];
    this.times = [];
  }

  connect() {
    if (this.socket && this.socket.readyState <= 1) return;
    this.socket = new WebSocket(this.url);
    this.socket.binaryType = "arraybuffer";
    this.socket.addEventListener("message", (event) => this.receive(event));
    this.socket.addEventListener("open", () => this.flush());
    this.socket.addEventListener("close", () => { this.busy = false; this.release(); });
  }

  send(message) {
    this.pending = message;
    this.connect();
    this.flush();
  }

  flush() {
    if (this.busy || !this.pending || this.socket.readyState !== 1) return;
    this.busy = true;
    this.sent = { at: performance.now(), message: this.pending };
    this.socket.send(JSON.stringify(this.pending));
    this.pending = null;
  }

  receive(event) {
    const { head, frames } = unpackReply(event.data);
    this.times.push(performance.now() - this.sent.at);
    if (this.times.length > 1000) this.times.shift();
    this.onReply(head, frames, this.sent.message);
    this.busy = false;
    if (this.pending) this.flush();
    else this.release();
  }

  release() { for (const resolve of this.idle.splice(0)) resolve(); }

  /** Resolves when the last move has been answered. */
  settled() {
    if (!this.busy && !this.pending) return Promise.resolve();
    return new Promise((resolve) => this.idle.push(resolve));
  }
}
