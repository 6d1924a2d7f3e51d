// What leads what is chosen, from its card.
import { post } from "../shared/edits.js";

const KINDS = ["drift", "loose"];

export function installDriving({ base, nodes }) {
  const lead = (kind, act, values = {}) => post(`${base}/${kind}${act}`, { nodes: JSON.stringify(nodes()), ...values });
  document.getElementById("card").addEventListener("change", ({ target }) => {
    const { set: kind, field } = target.dataset;
    const emptied = !target.value.trim() && field !== "limit";
    if (!KINDS.includes(kind) || emptied) return;
    lead(kind, "/set", { field, value: target.type === "checkbox" ? target.checked : target.value });
  });
  const acts = KINDS.flatMap((kind) => [
    [kind, () => lead(kind, "")],
    [`${kind}-own`, () => lead(kind, "/own")],
    [`${kind}-away`, () => lead(kind, "/remove")],
  ]);
  return {
    acts: {
      ...Object.fromEntries(acts),
      "drift-other": () => lead("drift", "/other"),
      "loose-drop": () => lead("loose", "/drop"),
    },
  };
}
