// The page's end of a live drag: moves go to Python by way of a worker, its answers come back.
import { framesOf } from "../stage/frames.js";

export class LiveLine {
  /** `drawn`: an answer is one frame, and the painter is given it at once. */
  constructor(stage, kind, id, onReply, drawn = true) {
    this.stage = stage;
    this.url = `${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/live/${kind}/${id}`;
    this.onReply = onReply;
    this.lens = false; // answers are wanted as the camera sees them
    this.asked = 0;
    this.answered = 0;
    this.idle = [];
    this.times = [];
    this.worker = new Worker(new URL("./worker.js", import.meta.url), { type: "module" });
    this.worker.addEventListener("message", ({ data }) => (data.kind === "reply" ? this.#receive(data) : this.#settle(this.asked)));
    if (drawn) this.#tellPainter(stage);
  }

  #tellPainter(stage) {
    const { port1, port2 } = new MessageChannel();
    stage.tell({ kind: "live", port: port1 }, [port1]);
    this.worker.postMessage({ kind: "painter", port: port2 }, [port2]);
  }

  send(message) {
    this.asked += 1;
    const at = performance.timeOrigin + performance.now();
    const wanted = this.lens ? { ...message, lens: true } : message;
    this.worker.postMessage({ kind: "move", url: this.url, seq: this.asked, turn: this.stage.turn, message: wanted, at });
  }

  #receive({ head, reply, message, seq, took }) {
    this.times.push(took);
    if (this.times.length > 1000) this.times.shift();
    this.onReply(head, framesOf(reply), message);
    this.#settle(seq);
  }

  #settle(seq) {
    this.answered = Math.max(this.answered, seq);
    if (this.answered === this.asked) for (const resolve of this.idle.splice(0)) resolve();
  }

  /** The gesture was given up: what is still on its way is not to be shown. */
  drop() {
    this.stage.turn += 1;
    this.worker.postMessage({ kind: "drop" });
    this.#settle(this.asked);
  }

  /** Resolves when the last move has been answered. */
  settled() {
    if (this.answered === this.asked) return Promise.resolve();
    return new Promise((resolve) => this.idle.push(resolve));
  }
}
