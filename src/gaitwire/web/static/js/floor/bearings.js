// What carries a body: the bone about which it moves is marked on the stage and named beside the body map.
import { svg } from "../stage/stage.js";

const MARK = "M-6 3H6M0 3V-7M-6-3C-6 9 6 9 6-3";

export function installBearings({ stage, player, wires, bearings, subject }) {
  const root = svg("g", { class: "bearings" }, stage.overlay);
  const said = document.getElementById("bear-said");

  /** What carries a puppet's body on the frame in view; null where its root does. */
  function bearer(instance) {
    const found = bearings().filter((one) => one.instance === instance && one.time <= player.frame).at(-1);
    return found?.owner ? found : null;
  }

  function draw() {
    const mine = bearer(subject()?.instance);
    said.hidden = !mine;
    if (mine) said.textContent = `${mine.name} carries the body here: all moves about it.`;
    const whose = [...new Set(bearings().map(({ instance }) => instance))].map(bearer).filter(Boolean);
    const shown = wires.visible && !wires.resting && stage.frames ? whose : [];
    root.replaceChildren(...shown.map(markOf).filter(Boolean));
  }

  function markOf({ instance, owner, name }) {
    const item = wires.byId?.get(`${instance}:${owner}`);
    if (!item) return null;
    const [x, y] = stage.toScreen(...stage.frames.bone(stage.index, item.index).slice(4));
    const group = svg("g", { class: "bearmark", transform: `translate(${x.toFixed(1)} ${(y - 16).toFixed(1)})` });
    svg("title", {}, group).textContent = `${name} carries the body`;
    svg("path", { d: MARK, class: "under" }, group); // so that it stands out from joints and art
    svg("path", { d: MARK }, group);
    return group;
  }

  stage.onDraw(draw);
  return { bearer };
}
