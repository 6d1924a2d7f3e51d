// Plants, hitches and bearings on their wires: dragged in time, a plant by either end too.

const EDGE = 6; // pixels of a bar's end that take hold of that end alone

export function installLinkBars({ timeline, onMove, onPick }) {
  let drag = null;

  /** Which end of a bar is taken; both for its middle, and for a mark. */
  function taken(event, element) {
    const start = Number(element.dataset.start), stop = Number(element.dataset.stop);
    const box = (element.querySelector(".hold") ?? element).getBoundingClientRect();
    const bar = element.querySelector(".hold") !== null;
    const ends = { start, stop };
    if (bar && event.clientX > box.right - EDGE && box.width > EDGE) return { ...ends, moves: ["stop"] };
    if (bar && event.clientX < box.left + EDGE && box.width > 3 * EDGE) return { ...ends, moves: ["start"] };
    return { ...ends, moves: ["start", "stop"] };
  }

  document.addEventListener("pointerdown", (event) => {
    const element = event.target.closest?.("#wires [data-link]");
    if (!element || event.button !== 0 || event.altKey) return;
    event.stopImmediatePropagation();
    event.preventDefault();
    drag = { element, from: event.clientX, by: 0, ...taken(event, element) };
  }, { capture: true });

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const { element, moves, start, stop } = drag;
    let by = Math.round((event.clientX - drag.from) / timeline.ppf);
    if (moves.length === 2 || moves[0] === "start") by = Math.max(-start, by);
    if (moves.length === 1) by = moves[0] === "stop" ? Math.max(start - stop, by) : Math.min(stop - start, by);
    drag.by = by;
    const hold = element.querySelector(".hold");
    if (!hold) { element.querySelector(".moves").setAttribute("transform", `translate(${by * timeline.ppf} 0)`); return; }
    const from = start + (moves.includes("start") ? by : 0), to = stop + (moves.includes("stop") ? by : 0);
    hold.setAttribute("x", from * timeline.ppf);
    hold.setAttribute("width", Math.max(1, (to - from) * timeline.ppf));
  });

  document.addEventListener("pointerup", () => {
    if (!drag) return;
    const { element, by, moves, start, stop } = drag;
    drag = null;
    const row = element.closest(".wirerow");
    if (!by) { onPick([row.dataset.instance, row.dataset.owner], start); return; }
    onMove(element.dataset.link, element.dataset.id, start + (moves.includes("start") ? by : 0), stop + (moves.includes("stop") ? by : 0));
  });
}

