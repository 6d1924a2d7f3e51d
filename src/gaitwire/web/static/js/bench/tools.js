// Tools of the Bench that work on bones and parts: pick, joint, draw bones, try.
import { post, remark } from "../shared/edits.js";
import { svg } from "../stage/stage.js";

export function installBoneTools(bench) {
  const { base, stage, wires, live, hints, chosen } = bench;
  const instance = document.body.dataset.document;

  // ── pick ──

  /** Parts that lie whole within a box drawn on the stage; a click on nothing chooses nothing. */
  function lassoed({ from, to, add }) {
    const [x0, x1] = [from[0], to[0]].sort((a, b) => a - b), [y0, y1] = [from[1], to[1]].sort((a, b) => a - b);
    const inside = bench.model.parts.filter((part) => {
      const [left, top, right, bottom] = stage.art.get(part.arts[0]).box;
      return !part.locked && left >= x0 && right <= x1 && top >= y0 && bottom <= y1;
    });
    if (!add) for (const kind of Object.keys(chosen)) chosen[kind].clear();
    for (const part of inside) chosen.parts.add(part.id);
    bench.showChosen();
  }

  function drawLasso() {
    const { from, to } = bench.gesture;
    const [ax, ay] = stage.toScreen(...from), [bx, by] = stage.toScreen(...to);
    svg("rect", { class: "lasso", x: Math.min(ax, bx), y: Math.min(ay, by), width: Math.abs(bx - ax), height: Math.abs(by - ay) }, hints);
  }

  bench.tools.pick = {
    down(event, [x, y], grip) {
      if (grip) { bench.choose(grip.kind === "pin" ? "pins" : "bones", grip.bone, event.shiftKey); return; }
      const part = stage.partAt(x, y);
      if (part) bench.choose("parts", part.id, event.shiftKey);
      else bench.gesture = { kind: "lasso", from: [x, y], to: [x, y], add: event.shiftKey, draw: drawLasso };
    },
    move(event, point) { bench.gesture.to = point; bench.drawHints(); },
    up() { lassoed(bench.gesture); },
  };

  // ── joint ──

  function drawMovedJoint() {
    const { item, kind, at, fixed, snap } = bench.gesture;
    if (kind === "tip") wires.draw(item, fixed, at);
    else wires.draw(item, at, fixed);
    if (!snap) return;
    const [x, y] = stage.toScreen(...at);
    svg("circle", { class: "catch", cx: x, cy: y, r: 12 }, hints);
    bench.label(x + 16, y + 4, snap);
  }

  bench.tools.joint = {
    down(event, point, grip) {
      if (!grip || grip.kind === "body" || grip.kind === "pin") { bench.tools.pick.down(event, point, grip); return; }
      if (!chosen.bones.has(grip.bone)) bench.choose("bones", grip.bone, false);
      const item = wires.get(grip.bone);
      if (item.node.locked) { remark(`“${item.node.name}” is locked. Unlock it first.`, "error"); return; }
      bench.gesture = { kind: grip.kind, bone: grip.bone, item, at: null, alone: event.shiftKey, fixed: grip.kind === "tip" ? item.at : item.end };
    },
    move(event, [x, y]) {
      if (bench.gesture.kind === "lasso") { bench.tools.pick.move(event, [x, y]); return; }
      live.send({ kind: "snap", x, y, free: event.altKey, reach: 10 / stage.view.scale, nodes: [["", bench.gesture.bone]] });
    },
    async up() {
      if (bench.gesture.kind === "lasso") { bench.tools.pick.up(); return; }
      await live.settled();
      const { at, bone, kind, alone } = bench.gesture ?? {};
      if (at) await post(`${base}/bones/${bone}/${kind === "tip" ? "tip" : "pivot"}`, { x: at[0], y: at[1], alone });
    },
    reply(head) {
      Object.assign(bench.gesture, { at: [head.x, head.y], snap: head.snap, draw: drawMovedJoint });
      bench.drawHints();
    },
  };

  // ── draw bones: joint after joint ──

  let chain = null; // { start, parent, end }

  function drawNewBone() {
    if (!chain?.end) return;
    const [ax, ay] = stage.toScreen(...chain.start), [bx, by] = stage.toScreen(...chain.end);
    const wire = svg("g", { class: "wire chosen" }, hints);
    svg("path", { class: "core", d: `M${ax} ${ay}L${bx} ${by}` }, wire);
    svg("circle", { class: "collar", cx: ax, cy: ay, r: 7 }, wire);
    svg("circle", { class: "tip", cx: bx, cy: by, r: 4 }, wire);
  }

  const far = ([ax, ay], [bx, by]) => Math.hypot(bx - ax, by - ay) * stage.view.scale >= 6;

  /** A bone from where the chain stands to a point, and on from there. */
  async function addTo(end) {
    const { start, parent } = chain;
    chain = { start: end, parent: null, end: null, under: chain.under };
    const mine = chain;
    const headers = await post(`${base}/bones/add`, { x: start[0], y: start[1], tip_x: end[0], tip_y: end[1], parent: parent ?? "" });
    if (!headers) { if (chain === mine) chain = null; return; }
    mine.parent = headers.get("Gw-Made");
    bench.choose("bones", mine.parent, false);
    bench.drawHints();
  }

  bench.tools.bone = {
    draw: drawNewBone,
    down(event, [x, y], grip) {
      if (chain && chain.parent === null) return; // the last one is on its way
      if (!chain) {
        const onJoint = grip && grip.kind !== "pin" && grip.kind !== "body";
        const item = onJoint ? wires.get(grip.bone) : null;
        const start = item ? (grip.kind === "tip" ? item.end : item.at) : [x, y];
        chain = { start, parent: item ? grip.bone : [...chosen.bones][0] ?? "", end: null };
        bench.gesture = { kind: "bone", pressed: start };
      } else bench.gesture = { kind: "bone", pressed: null };
    },
    hover(event, point) {
      if (!chain) return;
      chain.end = point;
      bench.drawHints();
    },
    move(event, point) { this.hover(event, point); },
    async up(event, point) {
      const dragged = bench.gesture.pressed && far(bench.gesture.pressed, point);
      if (chain && (dragged || !bench.gesture.pressed) && far(chain.start, point)) await addTo(point);
    },
    finish() { chain = null; bench.drawHints(); },
    get busy() { return chain !== null; },
  };

  // ── try: turn a bone, or pull a limb by one of its joints; nothing is kept ──

  const stays = new Map(); // limb id to the index of the joint that stays
  bench.stays = stays;

  /** The limb that a grip pulls, and by which of its joints; null where a bone is to be turned. */
  function pulled(bone, kind) {
    for (const limb of bench.model.limbs) {
      const { joints } = limb, last = joints.length - 1, held = stays.get(limb.id) ?? 0;
      let joint;
      if (limb.whole) joint = kind === "tip" && bone === limb.tip ? last : joints.slice(0, last).indexOf(bone);
      else if (bone === limb.tip) joint = last;
      else joint = joints.indexOf(bone);
      if (limb.whole && kind !== "tip" && kind !== "pivot") continue;
      if (!limb.whole && joint !== last && kind !== "pivot") continue;
      if (joint >= 0 && joint !== held && (joint > 0 || held > 0)) return { limb, joint, stays: held };
    }
    return null;
  }

  function drawAngle() {
    const item = wires.get(bench.gesture.bone);
    if (!item) return;
    const [x, y] = stage.toScreen(...item.at);
    bench.label(x - 12, y - 16, bench.gesture.text, "end");
  }

  bench.tools.try = {
    draw() {
      for (const limb of bench.model?.limbs ?? []) {
        const item = wires.get(limb.joints[stays.get(limb.id) ?? 0]);
        if (!item?.at || !limb.joints.some((id) => chosen.bones.has(id))) continue;
        const atTip = limb.whole && stays.get(limb.id) === limb.joints.length - 1;
        const [x, y] = stage.toScreen(...(atTip ? item.end : item.at));
        svg("path", { class: "stayhold", d: `M${x - 8} ${y + 13}V${y + 5}H${x + 8}V${y + 13}` }, hints);
      }
    },
    down(event, [x, y], grip) {
      const under = grip?.kind === "pin" ? null : grip;
      const bone = under?.bone ?? stage.partAt(x, y)?.bone;
      const pin = grip?.kind === "pin" ? grip.bone : null;
      if (pin) { bench.choose("pins", pin, false); bench.gesture = { kind: "try", bone: pin, turn: "shift", from: [x, y], began: performance.now() | 0 }; return; }
      if (!bone) { bench.choose("parts", null, false); return; }
      if (!chosen.bones.has(bone)) bench.choose("bones", bone, false);
      const pull = event.altKey ? null : pulled(bone, under?.kind ?? "part");
      bench.gesture = { kind: "try", bone, pull, turn: "turn", from: [x, y], began: performance.now() | 0 };
    },
    move(event, [x, y]) {
      const { pull, bone, from, began, turn } = bench.gesture;
      if (pull) live.send({ kind: "reach", limb: pull.limb.id, joint: pull.joint, stays: pull.stays, x, y, began });
      else live.send({ kind: "pose", gesture: turn, x, y, from_x: from[0], from_y: from[1], nodes: [[instance, bone]], began });
    },
    async up() { await live.settled(); stage.show(bench.rest); },
    reply(head, frames) {
      const { pull, turn } = bench.gesture;
      bench.gesture.text = pull ? (head.miss > 0.5 ? `${head.miss.toFixed(0)} px too far` : "") : turn === "turn" ? `${head.values[0][3].toFixed(1)}°` : "";
      bench.gesture.draw = drawAngle;
      stage.follow(frames);
    },
  };
}
