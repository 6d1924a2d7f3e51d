// Playing: one buffer a revision, drawn from memory; it follows the clock and skips pictures.
import { Frames } from "./frames.js";

export class Player {
  constructor({ base, stage, onFrame, onState }) {
    Object.assign(this, { base, stage, onFrame, onState });
    this.frame = 0;
    this.info = null;
    this.all = null;
    this.playing = false;
    this.shown = 0;
  }

  /** Fetch the state, its frame in view first, then all of them; whether no later call overtook this one. */
  async load(fetchInfo, present) {
    const ticket = (this.ticket ?? 0) + 1;
    this.ticket = ticket;
    let info, frame, one;
    do { // the scene may change between two answers: both must be of one state
      info = await fetchInfo();
      frame = Math.min(this.frame, info.frames - 1);
      one = await this.#fetch(`?at=${frame}`);
      if (this.ticket !== ticket) return false;
    } while (one.stamp !== info.stamp);
    Object.assign(this, { info, frame, all: null, one });
    present(info);
    this.show();
    const all = await this.#fetch("");
    if (this.ticket !== ticket) return false;
    if (all.stamp !== info.stamp) return this.load(fetchInfo, present);
    this.all = all;
    this.show();
    this.onFrame(this.frame);
    return true;
  }

  async #fetch(query) { return new Frames(await (await fetch(`${this.base}/frames.bin${query}`)).arrayBuffer()); }

  seek(frame) {
    if (!this.info) return;
    this.frame = Math.max(0, Math.min(this.info.frames - 1, frame));
    if (this.playing) this.began = performance.now() - (this.frame / this.info.rate) * 1000;
    this.show();
    this.onFrame(this.frame);
  }

  show() {
    if (this.all) this.stage.show(this.all, this.frame);
    else if (this.one) this.stage.show(this.one, 0);
  }

  toggle() { if (this.playing) this.stop(); else this.play(); }

  play() {
    if (!this.all || this.info.frames < 2) return;
    if (!this.info.loop && this.frame >= this.info.frames - 1) this.frame = 0;
    this.playing = true;
    this.shown = 0;
    this.started = performance.now();
    this.began = this.started - (this.frame / this.info.rate) * 1000;
    this.onState(true);
    requestAnimationFrame((now) => this.#tick(now));
  }

  #tick(now) {
    if (!this.playing) return;
    const { frames, rate, loop } = this.info;
    let frame = Math.floor((Math.max(0, now - this.began) / 1000) * rate);
    if (frame >= frames) {
      if (!loop) { this.seek(frames - 1); this.stop(); return; }
      frame %= frames;
    }
    if (frame !== this.frame) {
      this.frame = frame;
      this.show();
      this.shown += 1;
      this.onFrame(frame);
    }
    requestAnimationFrame((next) => this.#tick(next));
  }

  stop() {
    if (!this.playing) return;
    this.playing = false;
    this.onState(false);
  }
}
