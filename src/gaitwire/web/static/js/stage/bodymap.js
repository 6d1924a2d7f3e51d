// The body map: sticks and regions that pick bones; regions can be the only ones shown.

/** `choose(ids, add)` takes bones; `only(ids)` shows only those, or all (null). */
export function installBodyMap({ host, choose, only }) {
  let alone = null; // the ids that are shown

  host.addEventListener("click", (event) => {
    const stick = event.target.closest?.("[data-stick]"), area = event.target.closest?.("[data-area]");
    const add = event.shiftKey || event.ctrlKey || event.metaKey;
    if (stick) choose([stick.dataset.stick], add);
    else if (area) choose(area.dataset.area.split(","), add);
  });

  return {
    /** Show which bones are chosen; a region is pressed when all of it is. */
    mark(chosen) {
      for (const stick of host.querySelectorAll("[data-stick]")) stick.classList.toggle("chosen", chosen.has(stick.dataset.stick));
      for (const area of host.querySelectorAll("[data-area]")) {
        area.setAttribute("aria-pressed", String(area.dataset.area.split(",").every((id) => chosen.has(id))));
      }
    },
    /** Only the regions that have a chosen bone in them, or all again. */
    toggleOnly(on, chosen) {
      const areas = [...host.querySelectorAll("[data-area]")].map((area) => area.dataset.area.split(","));
      alone = on ? new Set(areas.filter((ids) => ids.some((id) => chosen.has(id))).flat()) : null;
      if (alone?.size === 0) alone = null;
      only(alone);
      return alone !== null;
    },
    get alone() { return alone; },
  };
}
