// How much a bone holds of a soft part: shown as a heat picture, and brushed.
import { post, remark } from "../shared/edits.js";
import { svg } from "../stage/stage.js";

const LEVELS = 10;

export function installBrush(bench) {
  const { base, stage, hints, chosen } = bench;
  const options = document.querySelector('[data-options="brush"]');
  const layer = svg("g", { class: "heat" });
  stage.overlay.prepend(layer);
  let shown = null; // { part, bone }

  /** One path a level: triangles by the mean of their corners' shares. */
  function paint({ points, triangles, shares }) {
    const paths = Array.from({ length: LEVELS }, () => "");
    for (const [a, b, c] of triangles) {
      const level = Math.min(LEVELS - 1, Math.floor(((shares[a] + shares[b] + shares[c]) / 3) * LEVELS));
      paths[level] += `M${points[a]}L${points[b]}L${points[c]}Z`;
    }
    layer.replaceChildren();
    paths.forEach((d, level) => { if (d) svg("path", { d, class: `heat-${level}` }, layer); });
  }

  async function refresh() {
    if (!shown) { layer.replaceChildren(); return; }
    const { part, bone } = shown;
    const response = await fetch(`${base}/parts/${part}/heat.json?bone=${bone}`);
    if (!shown || shown.part !== part || shown.bone !== bone) return;
    if (response.ok) paint(await response.json());
    else hide();
  }

  function hide() { layer.replaceChildren(); shown = null; mark(); }

  function mark() {
    for (const button of document.querySelectorAll("[data-heat]")) button.setAttribute("aria-pressed", String(button.dataset.heat === shown?.bone));
  }

  bench.heat = {
    mark,
    refresh() {
      if (shown && !chosen.parts.has(shown.part)) hide();
      else if (shown) refresh();
    },
    toggle(bone) {
      const part = [...chosen.parts][0];
      shown = shown?.bone === bone ? null : { part, bone };
      refresh();
      mark();
    },
  };
  stage.onDraw(() => {
    const { scale, x, y } = stage.view;
    layer.setAttribute("transform", `translate(${x} ${y}) scale(${scale})`);
  });

  const radius = () => Number(options.querySelector("#brush-size").value) || 20;
  const strength = () => (Number(options.querySelector("#brush-strength").value) || 25) / 100;

  function drawBrush() {
    if (!bench.brushAt) return;
    const [x, y] = stage.toScreen(...bench.brushAt);
    svg("circle", { class: "brush", cx: x, cy: y, r: radius() * stage.view.scale }, hints);
    const dabs = bench.gesture?.dabs ?? [];
    if (dabs.length) svg("path", { class: "stroke", d: `M${dabs.map((dab) => stage.toScreen(...dab).map((v) => v.toFixed(1)).join(" ")).join("L")}`, "stroke-width": Math.max(2, radius() * stage.view.scale * 0.5) }, hints);
  }

  bench.tools.brush = {
    draw: drawBrush,
    down(event, point) {
      if (!shown) {
        const part = stage.partAt(...point);
        if (part?.soft && !chosen.parts.has(part.id)) bench.choose("parts", part.id, false);
        remark("Choose a soft part, then press “hold” beside the bone to brush.", part?.soft ? "" : "error");
        return;
      }
      bench.gesture = { kind: "brush", dabs: [point], less: event.altKey || event.shiftKey };
    },
    hover(event, point) { bench.brushAt = point; bench.drawHints(); },
    move(event, point) {
      const { dabs } = bench.gesture, last = dabs[dabs.length - 1];
      if (Math.hypot(point[0] - last[0], point[1] - last[1]) >= radius() / 4 && dabs.length < 1500) dabs.push(point);
      this.hover(event, point);
    },
    async up() {
      const { dabs, less } = bench.gesture;
      const rounded = dabs.map((dab) => dab.map((v) => Number(v.toFixed(2))));
      await post(`${base}/parts/${shown.part}/brush`, { bone: shown.bone, dabs: JSON.stringify(rounded), radius: radius(), amount: (less ? -1 : 1) * strength() });
    },
  };
}
