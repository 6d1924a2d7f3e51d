// The timing chart: its rungs are dragged; where they end up goes to Python, which times the in-betweens by it.

const SIZE = 200;

export function installChart(onTick) {
  let held = null;

  function place(rung, share) {
    rung.dataset.share = Math.max(-1, Math.min(2, share)).toFixed(4);
    rung.setAttribute("transform", `translate(0 ${(Number(rung.dataset.share) * SIZE).toFixed(2)})`);
    rung.setAttribute("aria-valuenow", (100 * Number(rung.dataset.share)).toFixed(1));
  }

  const send = (rung) => onTick(Number(rung.dataset.tick), Number(rung.dataset.share));

  document.addEventListener("pointerdown", (event) => {
    const rung = event.target.closest?.("#chart [data-tick]");
    if (!rung || event.button !== 0) return;
    event.preventDefault();
    held = { rung, share: Number(rung.dataset.share), moved: false };
    rung.setPointerCapture(event.pointerId);
    rung.focus();
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    const chart = held.rung.ownerSVGElement;
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(chart.getScreenCTM().inverse());
    held.moved = true;
    place(held.rung, point.y / SIZE);
  });
  document.addEventListener("pointerup", () => {
    const { rung, moved } = held ?? {};
    held = null;
    if (moved) send(rung);
  });
  document.addEventListener("keydown", (event) => {
    const rung = event.target.closest?.("#chart [data-tick]");
    if (event.key === "Escape" && held) { place(held.rung, held.share); held = null; event.preventDefault(); return; }
    const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!rung || !step) return;
    event.preventDefault();
    event.stopPropagation();
    place(rung, Number(rung.dataset.share) + step * (event.shiftKey ? 0.1 : 0.01));
    send(rung);
  }, { capture: true });
}
