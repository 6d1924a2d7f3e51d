// How the scene is played: its speed, a range of it, and the blocking view without in-betweens.
import { remark } from "../shared/edits.js";

const place = (id) => document.getElementById(id);

export function installPlaybar({ player, first, changed }) {
  const shown = (frame) => String(frame + first());

  function paint() {
    const { range } = player;
    place("range").setAttribute("aria-pressed", String(range !== null));
    place("range-ends").hidden = range === null;
    if (range) [place("range-from").value, place("range-to").value] = range.map(shown);
    const band = document.querySelector("#ruler .playrange");
    if (band) band.setAttribute("visibility", range ? "visible" : "hidden");
    const root = document.getElementById("wires");
    root.style.setProperty("--range-from", range?.[0] ?? 0);
    root.style.setProperty("--range-long", range ? range[1] - range[0] + 1 : 0);
  }

  function setRange(from, to) {
    const last = player.info.frames - 1;
    const ends = [from, to].map((end) => Math.max(0, Math.min(last, Math.round(end)))).sort((a, b) => a - b);
    player.setRange(ends);
    paint();
  }

  const toggle = () => { if (player.range) { player.setRange(null); paint(); } else setRange(0, player.info.frames - 1); };

  /** Without in-betweens, or with them again; `look`: only to see it, keys mean what they mean with them. */
  function blocking(look = false) {
    player.blocking = !player.blocking;
    place("blocking").setAttribute("aria-pressed", String(player.blocking));
    place("blocking-set").hidden = !player.blocking;
    place("blocking-look").checked = look;
    changed();
  }

  place("range").addEventListener("click", toggle);
  place("blocking").addEventListener("click", () => blocking());
  place("speed").addEventListener("change", (event) => player.setSpeed(Number(event.target.value)));
  for (const id of ["range-from", "range-to"]) {
    place(id).addEventListener("change", () => {
      const ends = ["range-from", "range-to"].map((name) => Number(place(name).value) - first());
      if (ends.every(Number.isFinite)) setRange(...ends);
      else { remark("Type the numbers of two frames.", "error"); paint(); }
    });
  }

  return {
    toggle, blocking, paint, setRange,
    /** Whether poses are made of what is keyed. */
    get blocks() { return player.blocking && !place("blocking-look").checked; },
    from: () => setRange(player.frame, Math.max(player.frame, player.range?.[1] ?? player.info.frames - 1)),
    to: () => setRange(Math.min(player.frame, player.range?.[0] ?? 0), player.frame),
  };
}
