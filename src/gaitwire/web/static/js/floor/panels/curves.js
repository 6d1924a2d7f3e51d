// The curve panel: points and handles are dragged here; Python says what becomes of the curves.
import { post, remark } from "../../shared/edits.js";

export function install(panel, { base, player, seek }) {
  const { host } = panel, chosen = new Set(); // keys
  let held = null;

  const graph = () => document.getElementById("graphpanel");
  const show = () => panel.renew();

  function drawn() {
    for (const item of host.querySelectorAll("[data-x]")) put(item, Number(item.dataset.x), Number(item.dataset.y));
    mark();
    now();
  }

  function put(item, x, y) {
    item.style.setProperty("--x", x);
    item.style.setProperty("--y", y);
    if (!item.classList.contains("ghandle")) return;
    const box = host.getBoundingClientRect(), dx = ((x - item.dataset.fromX) / 100) * box.width, dy = ((y - item.dataset.fromY) / 100) * document.getElementById("graphpoints").clientHeight;
    item.style.setProperty("--arm", Math.hypot(dx, dy));
    item.style.setProperty("--way", `${Math.atan2(-dy, -dx)}rad`);
  }

  function mark() { for (const point of host.querySelectorAll(".gpoint")) point.classList.toggle("chosen", chosen.has(point.dataset.key)); }

  /** The playhead, in the panel. */
  function now() {
    const line = document.getElementById("graph-now"), { frames, wide } = graph()?.dataset ?? {};
    if (line) for (const end of ["x1", "x2"]) line.setAttribute(end, (player.frame / frames) * wide);
  }

  /** Where the pointer is: in percent of the panel, in frames and in values. */
  function at(event) {
    const box = document.getElementById("graphpoints").getBoundingClientRect(), { frames, low, high, tall } = graph().dataset;
    const x = (100 * (event.clientX - box.left)) / box.width, y = (100 * (event.clientY - box.top)) / box.height;
    const whole = document.getElementById("graph").viewBox.baseVal.height;
    return { x, y, time: (x / 100) * frames, value: Number(high) - ((y / 100) * whole / tall) * (high - low) };
  }

  host.addEventListener("pointerdown", (event) => {
    const item = event.target.closest(".gpoint, .ghandle");
    if (event.button !== 0) return;
    if (!item) {
      if (event.target.closest("svg") && !event.target.closest(".gcatch")) { chosen.clear(); mark(); seek(Math.max(0, Math.min(player.info.frames - 1, Math.round(at(event).time)))); }
      return;
    }
    event.preventDefault();
    item.focus();
    item.setPointerCapture(event.pointerId);
    if (item.classList.contains("gpoint")) {
      if (!event.shiftKey) chosen.clear();
      if (event.shiftKey && chosen.has(item.dataset.key)) chosen.delete(item.dataset.key);
      else chosen.add(item.dataset.key);
      mark();
    }
    held = { item, moved: false, x: event.clientX, y: event.clientY };
  });
  host.addEventListener("pointermove", (event) => {
    if (!held) return;
    if (!held.moved && Math.hypot(event.clientX - held.x, event.clientY - held.y) < 3) return;
    held.moved = true;
    held.place = at(event);
    const level = event.shiftKey && held.item.classList.contains("gpoint"); // with Shift a point moves in time alone
    if (level) held.place.value = Number(held.item.dataset.value);
    put(held.item, held.place.x, level ? Number(held.item.dataset.y) : held.place.y);
  });
  host.addEventListener("pointerup", async () => {
    const { item, moved, place } = held ?? {};
    held = null;
    if (!moved) return;
    const { channel, key, side } = item.dataset;
    const done = side
      ? await post(`${base}/graph/pull`, { channel, key, side, time: place.time, value: place.value })
      : await post(`${base}/graph/move`, { channel, key, time: Math.round(place.time), value: place.value });
    if (!done) show(); // refused: as it stands
  });
  host.addEventListener("dblclick", (event) => {
    const channel = event.target.closest(".gcatch")?.dataset.channel;
    if (channel) post(`${base}/graph/add`, { channel, time: Math.round(at(event).time) });
  });
  host.addEventListener("click", (event) => {
    const kind = event.target.closest("[data-joint]")?.dataset.joint;
    if (!kind) return;
    const points = [...host.querySelectorAll(".gpoint.chosen")];
    if (!points.length) { remark("Choose points on the curves first.", "error"); return; }
    for (const [channel, keys] of Map.groupBy(points, (point) => point.dataset.channel)) {
      post(`${base}/graph/join`, { channel, keys: JSON.stringify(keys.map((point) => point.dataset.key)), kind });
    }
  });
  host.addEventListener("keydown", (event) => {
    const point = event.target.closest(".gpoint"), step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (event.key === "Escape" && held) { held = null; event.preventDefault(); event.stopPropagation(); show(); return; }
    if (!point || !step) return;
    event.preventDefault();
    event.stopPropagation();
    const by = event.shiftKey ? 10 : 1, { channel, key, time, value } = point.dataset;
    post(`${base}/graph/move`, { channel, key, time: Number(time) + step[0], value: Number(value) + step[1] * by });
  });

  return { drawn, now, busy: () => held !== null };
}
