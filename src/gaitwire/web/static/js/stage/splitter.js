// The line between the timeline and the stage: dragged, or moved with the arrows; kept for the next visit.

const LEAST = 150;

export function installSplitter(bar, host) {
  let from = null;

  function set(height, keep = true) {
    const most = Math.max(LEAST, host.clientHeight - 220);
    const held = Math.round(Math.min(most, Math.max(LEAST, height)));
    host.style.setProperty("--tall", `${held}px`);
    bar.setAttribute("aria-valuenow", held);
    bar.setAttribute("aria-valuemax", most);
    if (keep) { try { localStorage.setItem("timeline", String(held)); } catch { /* then only for this page */ } }
  }

  const height = () => document.getElementById("wires").clientHeight;
  let kept = null;
  try { kept = Number(localStorage.getItem("timeline")); } catch { /* storage may be off */ }
  if (kept) set(kept, false);
  else bar.setAttribute("aria-valuenow", Math.round(height()));

  bar.addEventListener("pointerdown", (event) => { from = [event.clientY, height()]; bar.setPointerCapture(event.pointerId); event.preventDefault(); });
  bar.addEventListener("pointermove", (event) => { if (from) set(from[1] + event.clientY - from[0]); });
  for (const kind of ["pointerup", "pointercancel"]) bar.addEventListener(kind, () => { from = null; });
  bar.addEventListener("keydown", (event) => {
    const step = { ArrowUp: -24, ArrowDown: 24 }[event.key];
    if (!step) return;
    event.preventDefault();
    set(height() + step);
  });
}
