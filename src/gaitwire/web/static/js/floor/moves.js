// Moves that are planned from the card: hops, and smears of what comes quickly.
import { instanceOf } from "./cardedits.js";
import { post } from "../shared/edits.js";

export function installMoves({ base, nodes, player }) {
  const value = (id) => document.getElementById(id).value;
  return {
    acts: {
      hop(button) {
        const settings = Object.fromEntries([...document.querySelectorAll("[data-hop]")].map((input) => [input.dataset.hop, input.value]));
        post(`${base}/hops/plan`, { instance: instanceOf(button), frame: player.frame, settings: JSON.stringify(settings) });
      },
      smear: () => post(`${base}/smears`, {
        nodes: JSON.stringify(nodes()), frame: player.frame, kind: value("smear-kind"), frames: value("smear-frames"),
        tail: value("smear-tail"), keep: value("smear-keep"), hangers: String(document.getElementById("smear-hangers").checked),
      }),
    },
  };
}
