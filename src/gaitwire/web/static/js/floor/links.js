// Plants, hitches and bearings: made from what is chosen, footprints dragged on the stage, carriers clicked there.
import { post, remark } from "../shared/edits.js";
import { svg } from "../stage/stage.js";

export function installLinks({ base, stage, player, live, nodes, subject, plants, choose }) {
  let picking = null, held = null;
  const root = svg("g", { class: "footprints" }, stage.overlay); // over the bones: their soles are thin lines
  const limb = ({ instance, limb: id }) => ({ frame: player.frame, nodes: JSON.stringify([[instance, id]]) });
  const here = (more = {}) => ({ frame: player.frame, nodes: JSON.stringify(nodes()), ...more });

  // ── footprints ──

  /** Where a spot's point lies on the stage: `c` in the tip's own pixels at rest. */
  function placed(plant, /** @type {any[]} */ [cx, cy]) {
    const turn = (plant.angle * Math.PI) / 180, { frames, index } = stage;
    const dx = plant.facing * plant.size * (cx * Math.cos(turn) - cy * Math.sin(turn)), dy = plant.size * (cx * Math.sin(turn) + cy * Math.cos(turn));
    if (plant.node < 0) return [plant.x + dx, plant.y + dy];
    const [a, b, c, d, e, f] = frames.bone(index, plant.node), along = Math.hypot(a, b) || 1;
    const [ox, oy] = [a * plant.x + c * plant.y + e, b * plant.x + d * plant.y + f];
    return [ox + (a * dx - b * dy) / along, oy + (b * dx + a * dy) / along];
  }

  const now = (plant) => plant.start - 1e-6 <= player.frame && player.frame <= plant.stop + 1e-6;
  const seen = (plant) => now(plant) || (plant.node < 0 && Math.abs(plant.start - player.frame) < 120);

  function draw() {
    const list = player.playing || !stage.frames ? [] : plants().filter(seen).map((plant) => (held?.plant.id === plant.id ? { ...plant, ...held.now } : plant));
    const { view } = stage, state = JSON.stringify([list, view, player.frame, list.some(({ node }) => node >= 0) ? stage.index : 0]);
    if (state === root.state) return;
    root.state = state;
    root.replaceChildren();
    for (const plant of list.slice(0, 60)) print(plant);
  }

  function print(plant) {
    const group = svg("g", { class: `footprint ${now(plant) ? "now" : ""}`, "data-foot": plant.id }, root);
    const name = `Spot of ${plant.name} from ${plant.start + player.info.first}`;
    const foot = plant.heel[0] !== plant.ball[0];
    const [hx, hy] = stage.toScreen(...placed(plant, plant.heel));
    if (!foot) {
      svg("circle", { class: "spot", cx: hx, cy: hy, r: 9, role: "button", "aria-label": name, "data-foot-grip": "move" }, group);
      svg("path", { class: "cross", d: `M${hx - 4} ${hy}H${hx + 4}M${hx} ${hy - 4}V${hy + 4}` }, group);
      return;
    }
    const toe = [plant.ball[0] + 0.45 * (plant.ball[0] - plant.heel[0]), plant.ball[1]];
    const [tx, ty] = stage.toScreen(...placed(plant, toe)), [bx, by] = stage.toScreen(...placed(plant, plant.ball));
    const sole = `M${hx} ${hy}L${tx} ${ty}`;
    svg("path", { class: "hitarea", d: sole, role: "button", "aria-label": name, "data-foot-grip": "move" }, group);
    svg("path", { class: "sole", d: sole }, group);
    svg("circle", { class: "ball", cx: bx, cy: by, r: 2.5 }, group);
    svg("circle", { class: "toe", cx: tx, cy: ty, r: 4.5, role: "button", "aria-label": `${name}, its angle`, "data-foot-grip": "turn" }, group);
  }

  /** A way on the stage in the space in which a spot is kept. */
  function within(plant, dx, dy) {
    if (plant.node < 0) return [dx, dy];
    const [a, b, c, d] = stage.frames.bone(stage.index, plant.node), det = a * d - b * c;
    return [(d * dx - c * dy) / det, (a * dy - b * dx) / det];
  }

  stage.host.addEventListener("pointerdown", (event) => {
    const grip = event.target.closest?.("[data-foot-grip]")?.dataset.footGrip;
    const plant = grip && plants().find(({ id }) => id === event.target.closest("[data-foot]").dataset.foot);
    if (!plant || event.button !== 0) return;
    event.stopImmediatePropagation();
    stage.host.setPointerCapture(event.pointerId);
    held = { grip, plant, from: stage.toStage(event), now: { x: plant.x, y: plant.y, angle: plant.angle } };
  }, { capture: true });

  stage.host.addEventListener("pointermove", (event) => {
    if (!held) return;
    const [x, y] = stage.toStage(event), { plant, from, grip, now: to } = held;
    if (grip === "move") {
      const [dx, dy] = within(plant, x - from[0], y - from[1]);
      Object.assign(to, { x: plant.x + dx, y: plant.y + dy });
    } else {
      const [hx, hy] = placed(plant, plant.heel), swept = Math.atan2(y - hy, x - hx) - Math.atan2(from[1] - hy, from[0] - hx);
      to.angle = plant.angle + (plant.facing * swept * 180) / Math.PI;
    }
    live.send({ kind: "footprint", plant: plant.id, x: to.x, y: to.y, angle: to.angle, frame: player.frame, blocking: player.blocking });
    stage.redraw();
  });

  stage.host.addEventListener("pointerup", async () => {
    if (!held) return;
    const { plant, now: to } = held;
    await live.settled();
    held = null;
    live.drop();
    const moved = Math.hypot(to.x - plant.x, to.y - plant.y) > 0.01 || to.angle !== plant.angle;
    if (!moved) { choose([[plant.instance, plant.limb]]); player.show(); return; }
    await post(`${base}/links/plants/${plant.id}/place`, { x: to.x.toFixed(3), y: to.y.toFixed(3), angle: to.angle.toFixed(3) });
    stage.redraw();
  });

  // ── a carrier is clicked ──

  /** The next bone that is clicked is what carries; Escape gives up. */
  function pick(what, then) {
    picking = then;
    stage.host.classList.add("picking");
    remark(`Click the bone ${what}. Escape: none.`);
  }

  function stopPicking() { picking = null; stage.host.classList.remove("picking"); }

  stage.host.addEventListener("pointerdown", (event) => {
    if (!picking || event.button !== 0) return;
    event.stopImmediatePropagation();
    const wire = event.target.closest?.("[data-bone]"), part = wire ? null : stage.partAt(...stage.toStage(event), true);
    const bone = wire ? [wire.dataset.instance, wire.dataset.bone] : part && [part.instance, part.bone];
    if (!bone) { remark("There is no bone here.", "error"); return; }
    const then = picking;
    stopPicking();
    then(JSON.stringify([bone]));
  }, { capture: true });
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && picking) { event.preventDefault(); event.stopImmediatePropagation(); stopPicking(); remark("Nothing was changed."); }
    if (event.key === "Escape" && held) { event.preventDefault(); held = null; live.drop(); player.show(); stage.redraw(); }
  }, { capture: true });

  const some = (work) => () => { if (nodes().length) work(); else remark("Nothing is chosen: choose a hand, a foot or a bone first.", "error"); };
  const acts = {
    plant: some(() => post(`${base}/links/plant`, here())),
    "plant-on": some(() => pick("it is planted on", (carrier) => post(`${base}/links/plant`, here({ carrier })))),
    lift: some(() => post(`${base}/links/lift`, here())),
    hitch: some(() => pick("it goes with", (carrier) => post(`${base}/links/hitch`, here({ carrier })))),
    "let-go": some(() => post(`${base}/links/hitch`, here())),
    throw: some(() => post(`${base}/links/hitch`, here({ arc: "true" }))),
    bear: some(() => post(`${base}/links/bear`, here())),
    "bear-root": some(() => post(`${base}/links/bear`, here({ root: "true" }))),
    solve: ({ dataset }) => post(`${base}/links/solve`, { ...limb(dataset), solved: dataset.solved }),
    "solve-more": ({ dataset }) => post(`${base}/links/solve`, { frame: player.frame, nodes: JSON.stringify(nodes().length ? nodes() : [[subject()?.instance, subject()?.instance]]), solved: dataset.solved }),
    "bend-over": ({ dataset }) => post(`${base}/links/bend`, limb(dataset)),
    "link-away"(button) {
      const { table, linkOf } = button.closest("[data-link-of]").dataset;
      post(`${base}/links/${table}/${linkOf}/remove`);
    },
  };

  document.addEventListener("change", ({ target }) => {
    if (target.dataset?.set !== "link") return;
    const { table, linkOf } = target.closest("[data-link-of]").dataset;
    post(`${base}/links/${table}/${linkOf}/set`, { field: target.name, value: target.value });
  });
  stage.onDraw(draw);
  return { acts, move: (table, id, start, stop) => post(`${base}/links/${table}/${id}/move`, { start, stop }) };
}
