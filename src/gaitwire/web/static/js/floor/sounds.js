// Sounds: heard while playing, in step, and while scrubbing; placed and cut on the timeline, set on their card.
import { post, remark } from "../shared/edits.js";

const LEAD = 0.04; // seconds from asking to hearing
const AHEAD = 1.0; // seconds of rounds that are asked for before they are due
const SLICE = 0.09; // seconds that are heard of a frame while scrubbing, at least
const RAMP = 0.004; // seconds in which a slice comes and goes, so that it does not click

/** What is heard: a clock that the pictures follow, and pieces of sounds asked for at their times on it. */
class Ear {
  buffers; info; nodes; pieces;
  constructor(info) {
    Object.assign(this, { info, context: null, buffers: new Map(), nodes: new Set(), pieces: [], round: null });
  }

  get list() { return this.info()?.sounds ?? []; }

  get ready() { return this.context?.state === "running" && this.list.some((sound) => !sound.muted && this.buffers.get(sound.blob)?.done); }

  /** Browsers are silent until somebody has done something on the page. */
  wake() {
    if (!this.list.length) return;
    this.#open();
    if (this.context.state === "suspended") this.context.resume();
  }

  #open() {
    if (this.context) return;
    this.context = new AudioContext({ latencyHint: "interactive" });
    this.master = this.context.createGain();
    this.master.connect(this.context.destination);
  }

  /** Fetch and decode what is not known yet. */
  load() {
    if (!this.list.length) return;
    this.#open();
    for (const { blob, name } of this.list) {
      if (this.buffers.has(blob)) continue;
      const kept = { done: null };
      this.buffers.set(blob, kept);
      fetch(`/blobs/${blob}`).then((answer) => answer.arrayBuffer()).then((data) => this.context.decodeAudioData(data))
        .then((buffer) => { kept.done = buffer; }, () => remark(`“${name}” cannot be played by this browser.`, "error"));
    }
  }

  /** Milliseconds, of what is heard now. */
  clock() { return (this.context.currentTime - (this.context.outputLatency || 0)) * 1000; }

  /** Play from a frame on; the time on the clock at which that is heard. `ends`: first and last frame of a round. */
  begin({ frame, ends: [first, last], rate, speed, again, bounce }) {
    this.hush();
    const t0 = this.context.currentTime + LEAD, long = last - first + 1;
    const period = again && bounce ? Math.max(1, 2 * long - 2) : long; // on the way back it is silent
    this.round = { t0, from: frame - first, first, long, rate, speed, again, period, next: 0 };
    this.ahead();
    return t0 * 1000;
  }

  /** Ask for the rounds that are due before long. */
  ahead() {
    const { round } = this;
    if (!round) return;
    const due = (since) => round.t0 + (since - round.from) / (round.rate * round.speed);
    while (round.next === 0 || (round.again && due(round.next * round.period) < this.context.currentTime + AHEAD)) {
      const began = round.next * round.period, skip = Math.max(0, round.from - began);
      if (skip < round.long) this.#lay(due(began + skip), round.first + skip, round.first + round.long, round.rate, round.speed);
      round.next += 1;
    }
  }

  /** What is heard from one frame to another, from a time on. */
  #lay(at, from, to, rate, speed, ramp = 0) {
    for (const sound of this.list) {
      const buffer = this.buffers.get(sound.blob)?.done;
      const start = Math.max(sound.start, from), end = Math.min(sound.start + sound.left * rate, to);
      if (!buffer || sound.muted || end <= start) continue;
      const when = at + (start - from) / (rate * speed), offset = sound.cut_in + (start - sound.start) / rate, long = (end - start) / rate;
      const node = this.context.createBufferSource(), gain = this.context.createGain();
      node.buffer = buffer;
      node.playbackRate.value = speed;
      node.connect(gain).connect(this.master);
      gain.gain.setValueAtTime(ramp ? 0 : sound.volume, when);
      if (ramp) {
        gain.gain.linearRampToValueAtTime(sound.volume, when + ramp);
        gain.gain.setValueAtTime(sound.volume, when + long / speed - ramp);
        gain.gain.linearRampToValueAtTime(0, when + long / speed);
      }
      node.start(when, offset, long);
      this.nodes.add(node);
      node.addEventListener("ended", () => this.nodes.delete(node));
      this.pieces.push({ name: sound.name, frame: start, when, offset, seconds: long, scrub: ramp > 0 });
      if (this.pieces.length > 200) this.pieces.shift();
    }
  }

  /** A short piece, from a frame on. */
  scrub(frame, rate) {
    if (!this.ready) return;
    this.hush();
    this.#lay(this.context.currentTime, frame, frame + Math.max(1, SLICE * rate), rate, 1, RAMP);
  }

  hush() {
    for (const node of this.nodes) node.stop();
    this.nodes.clear();
    this.round = null;
  }
}

export function installSounds({ base, player, info, timeline, showCard }) {
  const ear = new Ear(info);
  let picked = "", held = null;
  player.ear = ear;
  for (const kind of ["pointerdown", "keydown"]) document.addEventListener(kind, () => ear.wake(), { capture: true });

  const row = (id) => document.querySelector(`.soundrow[data-sound="${id}"]`);
  const drag = (id, by, edge = "") => post(`${base}/sounds/${id}/drag`, { by, edge });

  function mark() {
    for (const one of document.querySelectorAll(".soundrow")) one.classList.toggle("chosen", one.dataset.sound === picked);
  }

  function pick(id) {
    picked = id;
    mark();
    return showCard();
  }

  // ── on the timeline: the block is moved, its ends are cut ──

  document.addEventListener("pointerdown", (event) => {
    const lane = event.target.closest?.(".soundrow .lane");
    if (!lane || event.button !== 0) return;
    event.stopImmediatePropagation(); // no box of beads begins here
    event.preventDefault();
    const home = lane.closest(".soundrow"), on = event.target.closest(".block");
    home.focus({ preventScroll: true });
    pick(home.dataset.sound);
    if (on) held = { id: home.dataset.sound, edge: event.target.dataset.edge ?? "", from: event.clientX, by: 0, what: event.target.dataset.edge ? event.target : on };
  }, { capture: true });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    held.by = Math.round((event.clientX - held.from) / timeline.ppf);
    const home = held.edge === "out" ? -7 : 0;
    held.what.setAttribute("transform", `translate(${home + held.by * timeline.ppf} 0)`);
  });
  async function drop(keep) {
    if (!held) return;
    const { id, edge, by, what } = held;
    held = null;
    if (keep && by && (await drag(id, by, edge))) return;
    what.setAttribute("transform", edge === "out" ? "translate(-7 0)" : "translate(0 0)");
  }
  document.addEventListener("pointerup", () => drop(true));
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && held) { event.preventDefault(); event.stopImmediatePropagation(); drop(false); return; }
    const home = event.target.closest?.(".soundrow");
    if (!home || event.target !== home) return;
    const { sound } = home.dataset, by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by && event.altKey) drag(sound, by * (event.shiftKey ? 5 : 1));
    else if (event.key === "Enter") pick(sound);
    else if (event.key === "Delete" || event.key === "Backspace") post(`${base}/sounds/${sound}/remove`);
    else return;
    event.preventDefault();
    event.stopImmediatePropagation();
  }, { capture: true });

  // ── on the card ──

  document.addEventListener("change", async ({ target }) => {
    if (target.id === "sound-files") {
      const files = [...target.files];
      ear.wake();
      const headers = await post(`${base}/sounds/add`, { frame: player.frame }, files);
      target.value = "";
      const made = headers?.get("Gw-Made");
      if (made) pick(made);
    }
    if (target.dataset?.set !== "sound") return;
    post(`${base}/sounds/${picked}/set`, { field: target.name, value: target.type === "checkbox" ? String(target.checked) : target.value });
  });

  return {
    get picked() { return picked; },
    ear,
    clear() { picked = ""; mark(); },
    /** A new state of the scene: sounds may have come, and the one that was chosen may have gone. */
    renew() {
      if (picked && !info().sounds.some(({ id }) => id === picked)) picked = "";
      ear.load();
      mark();
    },
    acts: {
      "choose-sound"(button) {
        const id = button.closest("[data-sound]").dataset.sound;
        pick(id);
        row(id)?.scrollIntoView({ block: "nearest" });
      },
      "sound-here": () => post(`${base}/sounds/${picked}/set`, { field: "start", value: player.frame + info().first }),
      "sound-away": () => post(`${base}/sounds/${picked}/remove`),
    },
  };
}
