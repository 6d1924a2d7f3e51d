// Walks from the puppet's card: laid beneath its keys, changed, taken away, or written as keys; and turning round.
import { instanceOf } from "./cardedits.js";
import { post } from "../shared/edits.js";

export function installWalking({ base, nodes, player }) {
  const value = (id) => document.getElementById(id).value;
  const walkOf = (element) => `${base}/walks/${element.closest("[data-walk]").dataset.walk}`;
  const turnOf = (element) => `${base}/turns/${element.closest("[data-turn]").dataset.turn}`;
  const turn = (button, back) => post(`${base}/turn/${instanceOf(button)}`, { frame: player.frame, frames: value("turn-frames") || "0", back: String(back) });
  const write = (button, layer) => post(`${base}/walk/${instanceOf(button)}`, {
    card: value("walk-card"), start: value("walk-from"), stop: value("walk-to"), other: value("walk-other"), share: value("walk-share"),
    travels: String(document.getElementById("walk-travels").checked), layer: String(layer),
  });
  document.getElementById("card").addEventListener("change", ({ target: input }) => {
    if (input.dataset.set === "turn") post(`${turnOf(input)}/set`, { field: input.name, value: input.value });
    if (input.dataset.set !== "walk") return;
    post(`${walkOf(input)}/set`, { field: input.name, value: input.type === "checkbox" ? String(input.checked) : input.value });
  });
  return {
    acts: {
      "write-walk": (button) => write(button, false),
      "lay-walk": (button) => write(button, true),
      "walk-away": (button) => post(`${walkOf(button)}/remove`),
      weigh: (button) => post(`${base}/walk/${instanceOf(button)}/weigh`, { dip: value("weigh-dip"), lean: value("weigh-lean") }),
      "turn-here": (button) => turn(button, false),
      "turn-back": (button) => turn(button, true),
      "turn-away": (button) => post(`${turnOf(button)}/remove`),
      roll: () => post(`${base}/roll`, { nodes: JSON.stringify(nodes()), radius: value("roll-radius") }),
      "roll-no-more": () => post(`${base}/roll-no-more`, { nodes: JSON.stringify(nodes()) }),
      "walk-ready": (button) => post(`${base}/walks/ready/${instanceOf(button)}`, { remedy: button.dataset.remedy }),
      "own-walk": (button) => post(`${base}/walk/${instanceOf(button)}/own`, { density: value("walk-density") }),
    },
  };
}
