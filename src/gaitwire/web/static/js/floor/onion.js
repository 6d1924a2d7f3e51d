// What is seen with the frame in view: frames before and after, the opposite pose; and flipping between two frames.
import { remark } from "../shared/edits.js";
import { framesOf, headOf } from "../stage/frames.js";

const MOST = 8, STRONGEST = 0.5;

const place = (id) => document.getElementById(id);

export function installOnion({ base, stage, player, subject, instances, poseTimes, choose, seek }) {
  const state = { on: false, opposite: false, flips: [], mirrored: null, asked: 0 };

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
    const over = state.mirrored && state.opposite ? [{ ...state.mirrored, index: 0, tint: tint("--plum"), strength: 0.45, of: [state.mirrored.of], over: true }] : [];
    stage.ghosts = player.playing ? [] : [...onion(), ...over];
    stage.redraw();
  }

  async function askOpposite() {
    const panel = place("opposite"), whose = subject();
    panel.hidden = !state.opposite || !whose;
    state.asked += 1;
    if (panel.hidden || player.playing) { state.mirrored = null; show(); return; }
    const ticket = state.asked, range = player.range ? `&first=${player.range[0]}&last=${player.range[1] + 1}` : "";
    const answer = await fetch(`${base}/opposite.bin?instance=${whose.instance}&frame=${player.frame}${range}`);
    if (ticket !== state.asked) return;
    if (!answer.ok) { remark("This is too short to have an opposite: make the loop or the range longer.", "error"); return; }
    const reply = await answer.arrayBuffer();
    const head = headOf(reply), frames = framesOf(reply);
    state.mirrored = { frames: { buffer: frames.buffer, offset: frames.offset }, of: whose.instance };
    list(head, whose);
    show();
  }

  function list({ other, differences }, whose) {
    const shown = Number((other + player.info.first).toFixed(2)), many = differences.length;
    place("opposite-head").textContent = many ? `${many} unlike frame ${shown} turned over` : `like frame ${shown} turned over`;
    place("opposite-list").replaceChildren(...differences.slice(0, 8).map((row) => {
      const button = document.createElement("button");
      button.type = "button";
      const [who, turn, px] = [row.name === row.against ? row.name : `${row.name} · ${row.against}`, `${row.turn.toFixed(1)}°`, `${row.place.toFixed(1)} px`].map((text) => {
        const cell = document.createElement("span");
        cell.textContent = text;
        return cell;
      });
      button.append(who, turn, px);
      button.addEventListener("click", () => choose([[whose.instance, row.bone_id]]));
      return button;
    }));
  }

  function toggle() {
    state.on = !state.on;
    place("onion").setAttribute("aria-pressed", String(state.on));
    place("onion-set").hidden = !state.on;
    show();
  }

  function toggleOpposite() {
    state.opposite = !state.opposite;
    place("opposite-on").setAttribute("aria-pressed", String(state.opposite));
    askOpposite();
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
  place("opposite-on").addEventListener("click", toggleOpposite);
  for (const id of ["onion-before", "onion-after", "onion-poses"]) place(id).addEventListener("change", show);

  return {
    toggle, toggleOpposite, markFlip, flip,
    /** The frame in view, or what is on it, has changed. */
    renew() { if (state.opposite) askOpposite(); else show(); },
  };
}
