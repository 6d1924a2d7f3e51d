// What leads what is chosen, from its card.
import { post } from "../shared/edits.js";

export function installDriving({ base, nodes }) {
  const drift = (act, values = {}) => post(`${base}/drift${act}`, { nodes: JSON.stringify(nodes()), ...values });
  document.getElementById("card").addEventListener("change", ({ target }) => {
    if (target.dataset.set === "drift" && target.value.trim()) drift("/set", { field: target.dataset.field, value: target.value });
  });
  return { acts: { drift: () => drift(""), "drift-other": () => drift("/other"), "drift-own": () => drift("/own"), "drift-away": () => drift("/remove") } };
}
