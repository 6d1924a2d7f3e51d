// What is seen with the frame in view: frames before and after, a pose from elsewhere; and flipping between two frames.
import { remark } from "../shared/edits.js";

const MOST = 8, STRONGEST = 0.5;

const place = (id) => document.getElementById(id);

export function installOnion({ stage, player, instances, poseTimes, seek }) {
  const state = { on: false, flips: [], mirrored: null };

  const puppets = () => instances().filter((one) => !one.aside).map(({ instance }) => instance);
  const tint = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  const count = (id) => Math.max(0, Math.min(MOST, Math.round(Number(place(id).value)) || 0));

  /** Frames to be seen to one side, the nearest first: the next ones, or the next poses. */
  function side(direction, many) {
    const { frame, info } = player, { frames, loop } = info;
    const wrapped = (at) => (loop ? ((at % frames) + frames) % frames : at);
    if (!place("onion-poses").checked && !player.blocking) return Array.from({ length: many }, (_, n) => wrapped(frame + direction * (n + 1))).filter((at) => at >= 0 && at < frames);
    const times = poseTimes().map(Math.round).sort((a, b) => a - b);
    const before = times.filter((time) => time < frame).reverse(), after = times.filter((time) => time > frame);
    const turn = direction < 0 ? [...before, ...(loop ? after.toReversed() : [])] : [...after, ...(loop ? before.toReversed() : [])];
    return turn.slice(0, many);
  }

  function onion() {
    if (!state.on || !player.info) return [];
    const found = [];
    for (const [direction, id, name] of [[-1, "onion-before", "--copper"], [1, "onion-after", "--verdigris"]]) {
      const frames = side(direction, count(id));
      frames.forEach((index, n) => found.push({ index, tint: tint(name), strength: STRONGEST * (1 - n / (frames.length + 1)), of: puppets() }));
    }
    return found.sort((a, b) => a.strength - b.strength);
  }

  /** Put the ghosts of this frame on the stage; none while it plays. */
  function show() {
    const over = state.mirrored ? [{ ...state.mirrored, index: 0, tint: tint("--plum"), strength: 0.45, of: [state.mirrored.of], over: true }] : [];
    stage.ghosts = player.playing ? [] : [...onion(), ...over];
    stage.redraw();
  }

  function toggle() {
    state.on = !state.on;
    place("onion").setAttribute("aria-pressed", String(state.on));
    place("onion-set").hidden = !state.on;
    show();
  }

  /** Mark this frame for flipping: the last two that were marked are flipped between. */
  function markFlip() {
    state.flips = [...state.flips.filter((frame) => frame !== player.frame), player.frame].slice(-2);
    place("ruler").querySelectorAll(".flipmark").forEach((mark, n) => {
      mark.setAttribute("visibility", state.flips[n] === undefined ? "hidden" : "visible");
      mark.style.setProperty("--at", state.flips[n] ?? 0);
    });
    if (state.flips.length < 2) remark("This frame is marked. Mark another one, then X flips between them.");
  }

  function flip() {
    if (state.flips.length < 2) { remark("Mark two frames first: Shift X marks the frame in view.", "error"); return; }
    seek(player.frame === state.flips[0] ? state.flips[1] : state.flips[0]);
  }

  place("onion").addEventListener("click", toggle);
  for (const id of ["onion-before", "onion-after", "onion-poses"]) place(id).addEventListener("change", show);

  return {
    toggle, markFlip, flip,
    /** The frame in view, or what is on it, has changed. */
    renew: show,
    /** A pose from elsewhere is laid over the frame in view, or none any more. */
    mirror(pose) { state.mirrored = pose; show(); },
  };
}
