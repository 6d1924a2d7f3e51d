// The curve panel: two handles in shares of time and rise; the browser draws the cubic, Python plays it.

const SIZE = 200;

export function installCurve(onShape) {
  let held = null;

  const box = () => document.getElementById("curve");
  const read = () => ["x1", "y1", "x2", "y2"].map((name) => Number(box().dataset[name]));

  function draw() {
    if (!box()) return;
    const [x1, y1, x2, y2] = read();
    const at = (x, y) => `${(x * SIZE).toFixed(2)} ${((1 - y) * SIZE).toFixed(2)}`;
    box().querySelector(".freecourse").setAttribute("d", `M${at(0, 0)} C${at(x1, y1)} ${at(x2, y2)} ${at(1, 1)}`);
    for (const [n, x, y, ex, ey] of [[1, x1, y1, 0, 0], [2, x2, y2, 1, 1]]) {
      const handle = box().querySelector(`[data-handle="${n}"]`);
      handle.setAttribute("cx", (x * SIZE).toFixed(2));
      handle.setAttribute("cy", ((1 - y) * SIZE).toFixed(2));
      box().querySelector(`[data-arm="${n}"]`).setAttribute("d", `M${at(ex, ey)} L${at(x, y)}`);
    }
  }

  function set(n, x, y) {
    const shape = box();
    shape.dataset[`x${n}`] = Math.min(1, Math.max(0, x)).toFixed(4);
    shape.dataset[`y${n}`] = Math.min(2, Math.max(-1, y)).toFixed(4);
    shape.querySelector("polyline")?.setAttribute("visibility", "hidden");
    shape.querySelector(".freecourse").removeAttribute("visibility");
    draw();
  }

  document.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest?.("[data-handle]");
    if (!handle) return;
    held = Number(handle.dataset.handle);
    handle.setPointerCapture(event.pointerId);
    event.preventDefault();
    handle.focus();
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    const drawing = box().querySelector("svg");
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());
    set(held, point.x / SIZE, 1 - point.y / SIZE);
  });
  document.addEventListener("pointerup", () => {
    if (!held) return;
    held = null;
    onShape(read());
  });
  document.addEventListener("keydown", (event) => {
    const n = Number(event.target.dataset?.handle);
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!n || !step) return;
    event.preventDefault();
    event.stopPropagation();
    const by = event.shiftKey ? 0.1 : 0.02, values = read();
    set(n, values[2 * n - 2] + step[0] * by, values[2 * n - 1] + step[1] * by);
    onShape(read());
  });
  return draw;
}
