// Playing: one buffer a revision, drawn from memory; it follows the clock and skips pictures.
import { ask } from "../shared/asking.js";
import { settled } from "../shared/edits.js";
import { Frames } from "./frames.js";

const REST = 120; // ms

export class Player {
  base; began; from; onFrame; onState; one; stage;
  constructor({ base, stage, onFrame, onState }) {
    Object.assign(this, { base, stage, onFrame, onState });
    this.frame = 0;
    this.info = null;
    this.all = null;
    this.loading = 0; // states that are on their way
    this.playing = false;
    this.shown = 0;
    this.speed = 1;
    this.range = null; // first and last frame that are played, or null for all
    this.blocking = false;
    this.lens = false; // as the camera sees it
    this.ear = null; // what is heard: while it is, pictures follow its clock
  }

  /** Fetch the state, its frame in view first, then all of them; whether no later call overtook this one. */
  async load(fetchInfo, present) {
    this.loading += 1;
    try { return await this.#load(fetchInfo, present); } finally { this.loading -= 1; }
  }

  async #load(fetchInfo, present) {
    const ticket = (this.ticket ?? 0) + 1;
    this.ticket = ticket;
    const asked = this.ahead ?? this.#ask(fetchInfo);
    this.ahead = null;
    let [info, frame, one] = await asked;
    if (this.ticket !== ticket) return false;
    this.frame = Math.min(this.frame, info.frames - 1);
    while (one.stamp !== info.stamp || frame !== this.frame) { // both must be of one state, whatever came between
      frame = this.frame;
      one = await this.#fetch(`at=${frame}&stamp=${info.stamp}`);
      if (this.ticket !== ticket) return false;
      if (one.stamp !== info.stamp) info = await fetchInfo(); // that state is long gone
      if (this.ticket !== ticket) return false;
      this.frame = Math.min(this.frame, info.frames - 1);
    }
    Object.assign(this, { info, frame, all: null, one });
    const again = this.ready;
    present(info);
    this.show();
    // After an edit the rest may wait a moment: another edit may follow, and would have to wait for it.
    if (again) { await new Promise((done) => { setTimeout(done, REST); }); await settled(); }
    if (this.ticket !== ticket) return false;
    const all = await this.#fetch(`stamp=${info.stamp}`);
    if (this.ticket !== ticket) return false;
    this.ready = true;
    if (all.stamp !== info.stamp) return this.#load(fetchInfo, present);
    this.all = all;
    this.show();
    this.onFrame(this.frame);
    return true;
  }

  /** Ask for the state and the frame in view at once, before they are needed. */
  askAhead(fetchInfo) { this.ahead = this.#ask(fetchInfo); }

  async #ask(fetchInfo) {
    const { frame } = this;
    const [info, one] = await Promise.all([fetchInfo(), this.#fetch(`at=${frame}`)]);
    return [info, frame, one];
  }

  async #fetch(query = "") {
    const view = `${this.blocking ? "blocking=true&" : ""}${this.lens ? "lens=true&" : ""}`;
    return new Frames(await (await ask(`${this.base}/frames.bin?${view}${query}`)).arrayBuffer());
  }

  seek(frame) {
    if (!this.info) return;
    this.frame = Math.max(0, Math.min(this.info.frames - 1, frame));
    this.#begin();
    this.show();
    if (!this.playing) this.ear?.scrub(this.frame, this.info.rate);
    this.onFrame(this.frame);
  }

  show() {
    if (this.all) this.stage.show(this.all, this.frame);
    else if (this.one) this.stage.show(this.one, 0);
  }

  toggle() { if (this.playing) this.stop(); else this.play(); }

  play() {
    if (!this.all || this.info.frames < 2) return;
    const [first, last] = this.ends;
    if (this.frame < first || this.frame > last || (this.frame === last && !this.#again)) this.frame = first;
    this.playing = true;
    this.shown = 0;
    this.started = performance.now();
    this.#begin();
    this.onState(true);
    requestAnimationFrame(() => this.#tick());
  }

  get ends() { return this.range ?? [0, this.info.frames - 1]; }

  get #again() { return this.info.loop || this.info.bounce || this.range !== null; }

  setRange(range) { this.range = range; this.#begin(); }

  setSpeed(speed) { this.speed = speed; this.#begin(); }

  /** The clock starts anew from the frame that is shown: what is heard, where there is something. */
  #begin() {
    this.heard = this.playing && Boolean(this.ear?.ready);
    const { info: { rate, bounce, loop } = {}, frame, speed, ear } = this;
    if (!this.heard) ear?.hush();
    const began = this.heard ? ear.begin({ frame, ends: this.ends, rate, speed, again: this.#again, bounce: bounce && !loop }) : performance.now();
    Object.assign(this, { began, from: frame });
  }

  /** Milliseconds since the clock started. */
  get since() { return Math.max(0, (this.heard ? this.ear.clock() : performance.now()) - this.began); }

  /** The frame to be seen so many frames after the first one of what is played; null beyond the end. */
  #at(since) {
    const [first, last] = this.ends, long = last - first + 1;
    if (since < long) return first + since;
    if (!this.#again) return null;
    if (!this.info.bounce || this.info.loop) return first + (since % long);
    const there = since % Math.max(1, 2 * long - 2);
    return first + (there < long ? there : 2 * long - 2 - there);
  }

  #tick() {
    if (!this.playing) return;
    if (this.heard) this.ear.ahead();
    const since = this.from - this.ends[0] + (this.since / 1000) * this.info.rate * this.speed;
    const frame = this.#at(Math.max(0, Math.floor(since)));
    if (frame === null) { this.seek(this.ends[1]); this.stop(); return; }
    if (frame !== this.frame) {
      this.frame = frame;
      this.show();
      this.shown += 1;
      this.onFrame(frame);
    }
    requestAnimationFrame(() => this.#tick());
  }

  stop() {
    if (!this.playing) return;
    this.playing = false;
    this.ear?.hush();
    this.onState(false);
  }
}
