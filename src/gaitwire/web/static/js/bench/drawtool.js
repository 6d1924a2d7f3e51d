// Drawing in place on the Bench: new shapes, and the points of those that are there.
import { post, remark } from "../shared/edits.js";
import { svg } from "../stage/stage.js";

const AT = 1;

export function installDrawTool(bench) {
  const { base, stage, hints, chosen } = bench;
  const options = document.querySelector('[data-options="draw"]');
  const layer = svg("g", { class: "sketch" }, stage.overlay);
  const pen = { kind: "path", fill: "", stroke: "#3a332c", asked: false };
  let sheet = null; // shapes and palette of the drawing that is shown
  let shape = null; // index of the one whose points are held
  let picked = []; // [run, point] of chosen points
  let places = []; // of a path being drawn
  let pointer = null;

  const part = () => [...chosen.parts][0];
  const url = (rest = "") => `${base}/parts/${part()}/sketch${rest}`;
  const axis = () => Number(options.querySelector("#draw-axis").value.replace(",", "."));
  const mirrored = () => (options.querySelector("#draw-pairs").checked ? { axis: axis() } : {});
  const width = () => Number(options.querySelector("#draw-width").value.replace(",", ".")) || 3;
  const current = () => sheet?.shapes.find((one) => one.index === shape) ?? null;

  async function refresh() {
    if (!active() || !part()) { sheet = null; shape = null; draw(); return; }
    const mine = part();
    const response = await fetch(url());
    if (mine !== part() || !response.ok) return;
    sheet = await response.json();
    if (!current()) { shape = null; picked = []; }
    showColours();
    draw();
  }

  const active = () => stage.host.dataset.tool === "draw";

  // ── colours ──

  function showColours() {
    for (const field of ["fill", "stroke"]) {
      const row = options.querySelector(`[data-colours="${field}"]`);
      const value = current()?.[field] ?? pen[field];
      row.replaceChildren(...["", ...sheet.palette].map((color) => swatch(field, color, color === value)));
    }
  }

  function swatch(field, color, on) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "swatch";
    button.setAttribute("aria-label", `${field === "fill" ? "Fill" : "Outline"} ${color || "none"}`);
    button.setAttribute("aria-pressed", String(on));
    button.dataset.colour = color;
    if (color) button.style.setProperty("--colour", color);
    button.addEventListener("click", () => recolour(field, color));
    return button;
  }

  function recolour(field, color) {
    pen[field] = color;
    if (current()) post(url(`/${shape}/style`), { field, color });
    else showColours();
  }

  // ── what is drawn over the stage ──

  function onScreen(points) { return points.map((p) => stage.toScreen(...p).map((v) => v.toFixed(1)).join(" ")); }

  function draw() {
    layer.replaceChildren();
    if (!active()) return;
    if (options.querySelector("#draw-pairs").checked) {
      const [x] = stage.toScreen(axis(), 0);
      svg("path", { class: "axis", d: `M${x} 0V${stage.host.clientHeight}` }, layer);
    }
    const one = current();
    if (one) {
      one.runs.forEach((run, r) => run.anchors.forEach((anchor, i) => drawAnchor(anchor, r, i)));
    }
    if (places.length) {
      const all = pointer ? [...places, pointer] : places;
      svg("path", { class: "drawn", d: `M${onScreen(all).join("L")}` }, layer);
      for (const place of places) {
        const [x, y] = stage.toScreen(...place);
        svg("circle", { class: "drawnpoint", cx: x, cy: y, r: 4 }, layer);
      }
    }
  }

  function drawAnchor(anchor, run, point) {
    const [x, y] = stage.toScreen(...anchor[AT]);
    const on = picked.some(([r, p]) => r === run && p === point);
    if (on) {
      for (const row of [0, 2]) {
        const [hx, hy] = stage.toScreen(...anchor[row]);
        if (Math.hypot(hx - x, hy - y) < 2) continue;
        svg("path", { class: "handlearm", d: `M${x} ${y}L${hx} ${hy}` }, layer);
        svg("circle", { class: "handlepoint grab", cx: hx, cy: hy, r: 4.5, "data-point": `${run},${point},${row}`, role: "button", "aria-label": "Handle" }, layer);
      }
    }
    svg("rect", { class: `anchorpoint grab ${on ? "chosen" : ""}`, x: x - 4.5, y: y - 4.5, width: 9, height: 9, rx: 2, "data-point": `${run},${point},${AT}`, role: "button", "aria-label": `Point ${point + 1}` }, layer);
  }

  // ── gestures ──

  function drawRubber() {
    const { from, to } = bench.gesture;
    const [ax, ay] = stage.toScreen(...from), [bx, by] = stage.toScreen(...to);
    const w = Math.abs(bx - ax), h = Math.abs(by - ay);
    if (pen.kind === "ellipse") svg("ellipse", { class: "drawn", cx: (ax + bx) / 2, cy: (ay + by) / 2, rx: w / 2, ry: h / 2 }, hints);
    else svg("rect", { class: "drawn", x: Math.min(ax, bx), y: Math.min(ay, by), width: w, height: h }, hints);
  }

  async function add(kind, points, closed) {
    const rounded = JSON.stringify(points.map((p) => p.map((v) => Number(v.toFixed(2)))));
    const clipped = options.querySelector("#draw-clip").checked;
    const headers = await post(url("/add"), { kind, places: rounded, fill: closed ? pen.fill : "", stroke: pen.stroke || (closed ? "" : "#3a332c"), width: width(), closed, clipped });
    if (headers) shape = Number(headers.get("Gw-Made"));
  }

  /** The frontmost shape of the drawing under a point of the page. */
  function shapeAt([x, y]) {
    for (const one of [...sheet.shapes].reverse()) {
      const path = new Path2D(one.d);
      stage.probe.lineWidth = Math.max(one.width, 6 / stage.view.scale);
      if ((one.fill || !one.stroke) && stage.probe.isPointInPath(path, x, y)) return one.index;
      if (stage.probe.isPointInStroke(path, x, y)) return one.index;
    }
    return null;
  }

  bench.tools.draw = {
    down(event, point) {
      if (!part()) {
        const under = stage.partAt(...point);
        if (under) bench.choose("parts", under.id, false);
        else remark("Choose the part to draw into first.", "error");
        return;
      }
      if (!sheet) return;
      const held = event.target.closest?.("[data-point]")?.dataset.point.split(",").map(Number);
      if (pen.kind === "points") {
        if (held) { bench.gesture = { kind: "point", held, add: event.shiftKey, at: null }; return; }
        const found = shapeAt(point);
        if (found !== shape) { shape = found; picked = []; showColours(); draw(); return; }
        if (!event.shiftKey) picked = [];
        draw();
        bench.gesture = { kind: "maybe", at: point };
        return;
      }
      if (pen.kind === "path") { bench.gesture = { kind: "place" }; return; }
      bench.gesture = pen.kind === "freehand" ? { kind: "stroke", dabs: [point] } : { kind: "box", from: point, to: point, draw: drawRubber };
    },
    hover(event, point) { pointer = point; if (places.length) draw(); },
    move(event, point) {
      const { gesture } = bench;
      pointer = point;
      if (gesture.kind === "box") { gesture.to = point; bench.drawHints(); }
      else if (gesture.kind === "stroke") {
        gesture.dabs.push(point);
        layer.replaceChildren();
        svg("path", { class: "drawn", d: `M${onScreen(gesture.dabs).join("L")}` }, layer);
      } else if (gesture.kind === "point") {
        gesture.at = point;
        const [run, index, row] = gesture.held, anchor = current().runs[run].anchors[index];
        const [dx, dy] = [point[0] - anchor[row][0], point[1] - anchor[row][1]];
        for (const which of row === AT ? [0, 1, 2] : [row]) anchor[which] = [anchor[which][0] + dx, anchor[which][1] + dy];
        draw();
      } else if (places.length) draw();
    },
    async up(event, point) {
      const { gesture } = bench;
      if (gesture.kind === "box") await add(pen.kind, [gesture.from, gesture.to], true);
      else if (gesture.kind === "stroke") await add("freehand", gesture.dabs, Boolean(pen.fill));
      else if (gesture.kind === "place") {
        if (places.length > 2 && Math.hypot(point[0] - places[0][0], point[1] - places[0][1]) * stage.view.scale < 9) await finishPath(true);
        else { places.push(point); draw(); }
      } else if (gesture.kind === "point") await dropPoint(gesture);
    },
    finish() { if (places.length > 1) finishPath(false); else { places = []; draw(); } },
    get busy() { return places.length > 0; },
    remove() {
      if (picked.length && current()) post(url(`/${shape}/points/drop`), { points: JSON.stringify(picked) }).then(() => { picked = []; });
      else if (current()) { post(url(`/${shape}/remove`)); shape = null; }
      return true;
    },
    shown: refresh,
  };

  async function finishPath(closed) {
    const drawn = places;
    places = [];
    await add("path", drawn, closed || Boolean(pen.fill && drawn.length > 2));
  }

  async function dropPoint({ held: [run, index, row], at, add: more }) {
    if (at) {
      await post(url(`/${shape}/move`), { run, point: index, row, x: at[0], y: at[1], ...mirrored() });
      return;
    }
    picked = more ? [...picked, [run, index]] : [[run, index]];
    draw();
  }

  stage.host.addEventListener("dblclick", (event) => {
    if (!active() || pen.kind !== "points" || !current() || event.target.closest?.("[data-point]")) return;
    const [x, y] = stage.toStage(event);
    post(url(`/${shape}/insert`), { x, y, ...mirrored() });
  });

  options.addEventListener("change", (event) => {
    if (event.target.id === "draw-pairs" || event.target.id === "draw-axis") draw();
    if (event.target.name === "drawkind") { pen.kind = event.target.value; bench.tools.draw.finish(); if (pen.kind !== "points") { shape = null; picked = []; } draw(); if (sheet) showColours(); }
    if (event.target.id === "draw-width" && current()) post(url(`/${shape}/style`), { field: "width", width: width() });
  });
  options.addEventListener("click", (event) => {
    const act = event.target.closest?.("[data-points]")?.dataset.points;
    if (!act) return;
    if (!current()) { remark("Choose a shape with “points” first.", "error"); return; }
    if (act === "mirror") post(url(`/${shape}/mirror`), { keep: true, axis: axis() });
    else if (picked.length) post(url(`/${shape}/points/${act}`), { points: JSON.stringify(picked) });
    else remark("Choose a point first.", "error");
  });

  stage.onDraw(draw);
}
