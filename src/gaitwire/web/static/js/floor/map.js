// The body map on the Floor: bones and regions picked, and what has a bead on this frame.
import { ask } from "../shared/asking.js";
import { installBodyMap } from "../stage/bodymap.js";

export function installFloorMap({ base, choose, subject, keyedAt }) {
  const box = document.getElementById("mapbox");
  let whose = null, known = "", shown = new Set();
  const map = installBodyMap({ host: box, choose: (ids, add) => choose(ids.map((id) => [whose, id]), add), only() {} });

  /** Fetch the map of the puppet that is worked on, if it is another one now. */
  async function fetchMap() {
    const found = subject(), version = found ? `${found.instance}:${found.version}` : "";
    if (version === known) { beads(); return; }
    known = version;
    whose = found?.instance ?? null;
    document.getElementById("map-of").textContent = found?.name ?? "";
    if (whose === null) { box.replaceChildren(); return; }
    const text = await (await ask(`${base}/bodymap/${whose}`)).text();
    box.replaceChildren(new DOMParser().parseFromString(text, "text/html").body.firstElementChild);
    mark(shown);
    beads();
  }

  /** Knots are filled where there is a bead on this frame. */
  function beads() {
    const keyed = keyedAt(whose), sticks = [...box.querySelectorAll("[data-stick]")];
    let here = 0;
    for (const stick of sticks) {
      const on = keyed.has(stick.dataset.stick);
      stick.classList.toggle("keyed", on);
      if (on) here += 1;
    }
    document.getElementById("map-said").textContent = whose === null ? "" : `${here} of ${sticks.length} keyed here`;
  }

  function mark(ids) {
    shown = ids;
    map.mark(ids);
  }

  return { fetch: fetchMap, beads, mark, whose: () => whose };
}
