// Footprints of walks on the stage: fetched when there is time, drawn over the floor, those of this moment stronger.
import { svg } from "../stage/stage.js";

const LATER = 250; // ms
const NEAR = 60; // frames around the playhead whose prints are shown

export function installWalkPrints({ base, stage, player }) {
  const root = svg("g", { class: "walkprints", "aria-hidden": "true" }, stage.overlay);
  let prints = [], waiting = 0, asked = 0, state = "";

  function renew(walks) {
    clearTimeout(waiting);
    if (!walks) { prints = []; draw(); return; }
    const mine = ++asked;
    waiting = setTimeout(async () => {
      const answer = await fetch(`${base}/prints.json`);
      if (answer.ok && mine === asked) { prints = await answer.json(); draw(); }
    }, LATER);
  }

  function draw() {
    const list = player.playing ? [] : prints.filter((print) => Math.abs(print[5] - player.frame) < NEAR);
    const now = JSON.stringify([list, stage.view, player.frame]);
    if (now === state) return;
    state = now;
    root.replaceChildren();
    for (const [hx, hy, bx, by, side, frame] of list) {
      const [x1, y1] = stage.toScreen(hx, hy), [x2, y2] = stage.toScreen(bx, by);
      svg("line", { class: `${side} ${frame < player.frame ? "made" : ""}`, x1, y1: y1 + 3, x2, y2: y2 + 3 }, root);
    }
  }

  stage.onDraw(draw);
  return { renew };
}
