// Work on guides: laid, placed by hand or typed, taken away; and the rulers along the stage.
import { post } from "../shared/edits.js";
import { svg } from "../stage/stage.js";

export function installGuides({ base, stage, guides }) {
  let placing = "", held = null, ruled = false;
  const root = svg("g", { class: "guideplace", display: "none" }, stage.overlay);
  const frame = svg("path", { class: "guideframe", "data-guide": "move" }, root);
  const corner = svg("rect", { class: "guidecorner", x: -6, y: -6, width: 12, height: 12, rx: 2, "data-guide": "size" }, root);
  const rulers = svg("g", { class: "rulers", "aria-hidden": "true" }, stage.overlay);
  const one = () => guides().find(({ id }) => id === placing);

  function draw() {
    drawRulers();
    const guide = held?.now ?? one();
    root.setAttribute("display", guide ? "inline" : "none");
    if (!guide) return;
    const w = (guide.width * guide.scale) / 2, h = (guide.height * guide.scale) / 2;
    const [x0, y0] = stage.toScreen(guide.x - w, guide.y - h), [x1, y1] = stage.toScreen(guide.x + w, guide.y + h);
    frame.setAttribute("d", `M${x0} ${y0}H${x1}V${y1}H${x0}Z`);
    corner.setAttribute("transform", `translate(${x1} ${y1})`);
  }

  /** Ticks with numbers in pixels of the stage, as far apart as can be read. */
  function drawRulers() {
    const { view: { scale, x, y }, host: { clientWidth: w, clientHeight: h } } = stage, state = ruled ? [scale, x, y, w, h].join() : "";
    if (state === rulers.state) return;
    rulers.state = state;
    rulers.replaceChildren();
    if (!ruled) return;
    const step = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000].find((size) => size * scale >= 46) ?? 5000;
    svg("path", { class: "rulerpaper", d: `M0 0H${w}V15H15V${h}H0Z` }, rulers);
    for (const [long, offset, across] of [[w, x, true], [h, y, false]]) {
      for (let at = Math.ceil(-offset / scale / step) * step; at * scale + offset < long; at += step) {
        const place = (at * scale + offset).toFixed(1);
        svg("path", { class: "rulertick", d: across ? `M${place} 0V15` : `M0 ${place}H15` }, rulers);
        const text = svg("text", across ? { x: Number(place) + 3, y: 11 } : { x: 0, y: 0, transform: `translate(11 ${Number(place) - 3}) rotate(-90)` }, rulers);
        text.textContent = at;
      }
    }
  }

  stage.host.addEventListener("pointerdown", (event) => {
    const grip = event.target.closest?.("[data-guide]")?.dataset.guide, guide = one();
    if (!grip || !guide || event.button !== 0) return;
    event.stopImmediatePropagation();
    stage.host.setPointerCapture(event.pointerId);
    held = { grip, guide, from: stage.toStage(event), now: { ...guide } };
  }, { capture: true });
  stage.host.addEventListener("pointermove", (event) => {
    if (!held) return;
    const [x, y] = stage.toStage(event), { guide, from, grip, now } = held;
    if (grip === "move") Object.assign(now, { x: guide.x + x - from[0], y: guide.y + y - from[1] });
    else {
      const reach = ([px, py]) => Math.hypot(px - guide.x, py - guide.y);
      now.scale = Math.max(0.01, (guide.scale * reach([x, y])) / Math.max(1, reach(from)));
    }
    stage.redraw();
  });
  stage.host.addEventListener("pointerup", async () => {
    if (!held) return;
    const { guide, now } = held;
    await post(`${base}/guides/${guide.id}/place`, { x: now.x.toFixed(2), y: now.y.toFixed(2), scale: now.scale.toFixed(4) });
    held = null;
    stage.redraw();
  });

  document.addEventListener("change", ({ target }) => {
    if (target.id === "guide-files") post(`${base}/guides/pictures`, {}, [...target.files]).then(() => { target.value = ""; });
    if (target.dataset?.set === "guide") post(`${base}/guides/${target.closest("[data-guide-of]").dataset.guideOf}/set`, { field: target.name, value: target.type === "checkbox" ? String(target.checked) : target.value });
  });
  stage.onDraw(draw);

  const opened = new Set(); // guides whose settings are unfolded: a new card comes folded
  document.addEventListener("click", ({ target }) => {
    const home = target.closest?.("summary")?.closest("[data-guide-of]");
    if (home) opened[home.open ? "delete" : "add"](home.dataset.guideOf); // the click is about to change it
  });

  const whose = (button) => button.closest("[data-guide-of]").dataset.guideOf;
  return {
    unfold() { for (const home of document.querySelectorAll("[data-guide-of]")) home.open = opened.has(home.dataset.guideOf); },
    /** The guides as they stand, one of them as it is being dragged. */
    get live() { return guides().map((guide) => (held && guide.id === held.guide.id ? held.now : guide)); },
    acts: {
      rulers() { ruled = !ruled; stage.redraw(); },
      "guide-stride": () => post(`${base}/guides/stride`, { frames: document.getElementById("stride-long").value, card: document.getElementById("stride-card").value, turned: String(document.getElementById("stride-turned").checked) }),
      "guide-place"(button) { placing = placing === whose(button) ? "" : whose(button); stage.redraw(); },
      "guide-away": (button) => post(`${base}/guides/${whose(button)}/remove`),
    },
  };
}
