// Dials: a facing pad, a gauge or a joint's angle with the places stored on it. The point on it is dragged;
// what that does is Python's to say.

const CATCH = 9; // pixels within which a stored place is caught

const number = (element, name) => Number(element.dataset[name]);

/** Where a pointer is on a dial, in its own units, within its edges. */
function placeOf(dial, event) {
  const [left, right, low, high] = dial.dataset.extent.split(" ").map(Number);
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(dial.getScreenCTM().inverse());
  const x = Math.min(right, Math.max(left, at.x)), y = Math.min(high, Math.max(low, -at.y));
  return [Math.round(x * 10) / 10, dial.dataset.kind === "pad" ? Math.round(y * 10) / 10 : 0];
}

/** The stored place, or rest, that a pointer is so near to that it is meant. */
function caught(dial, event) {
  const to = dial.getScreenCTM();
  const places = [[0, 0], ...[...dial.querySelectorAll(".place")].map((place) => [number(place, "x"), dial.dataset.kind === "pad" ? number(place, "y") : 0])];
  return places.find(([x, y]) => {
    const at = new DOMPoint(x, -y).matrixTransform(to);
    return Math.hypot(at.x - event.clientX, at.y - event.clientY) < CATCH;
  });
}

export function movePoint(dial, x, y) {
  const point = dial.querySelector(".point");
  point.removeAttribute("hidden");
  point.setAttribute("transform", `translate(${x} ${-y})`);
}

/**
 * `moved(dial, x, y)` while the point is dragged, `set(dial, x, y)` when it is let go, `carried(id, x, y)` when a
 * stored place was dragged elsewhere (where places can be). `dropped()` when a drag is given up.
 */
export function installDials(host, { moved, set, carried = null, dropped = () => {} }) {
  let drag = null;

  host.addEventListener("pointerdown", (event) => {
    const dial = event.target.closest?.("svg.dial");
    if (!dial || event.button !== 0 || event.target.closest("[data-blank]")) return;
    event.preventDefault();
    const place = carried ? event.target.closest(".place") : null;
    drag = { dial, place, from: [event.clientX, event.clientY], far: false };
    dial.setPointerCapture(event.pointerId);
    if (!place) go(event);
  });

  function go(event) {
    const { dial, place } = drag;
    const [x, y] = (!place && !event.altKey && caught(dial, event)) || placeOf(dial, event);
    drag.at = [x, y];
    if (place) place.setAttribute("transform", `translate(${x} ${-y})`);
    else { movePoint(dial, x, y); moved(dial, x, y); }
  }

  host.addEventListener("pointermove", (event) => {
    if (!drag) return;
    drag.far ||= Math.hypot(event.clientX - drag.from[0], event.clientY - drag.from[1]) > 3;
    if (drag.far || !drag.place) go(event);
  });
  host.addEventListener("pointerup", () => {
    if (!drag) return;
    const { dial, place, far, at } = drag;
    drag = null;
    if (place && far) carried(place.dataset.place, ...at);
    else if (place) setTo(dial, place);
    else set(dial, ...at);
  });
  host.addEventListener("pointercancel", giveUp);

  function setTo(dial, place) {
    const x = number(place, "x"), y = dial.dataset.kind === "pad" ? number(place, "y") : 0;
    movePoint(dial, x, y);
    moved(dial, x, y);
    set(dial, x, y);
  }

  host.addEventListener("keydown", (event) => {
    const place = event.target.closest?.(".place");
    if (place && event.key === "Enter") { event.preventDefault(); setTo(place.closest("svg.dial"), place); }
  });

  function giveUp() {
    if (!drag) return false;
    drag = null;
    dropped();
    return true;
  }

  return { giveUp, get busy() { return drag !== null; } };
}
