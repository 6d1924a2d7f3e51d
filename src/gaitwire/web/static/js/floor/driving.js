// What leads what is chosen, from its card.
import { post } from "../shared/edits.js";

const KINDS = ["drift", "loose"];

export function installDriving({ base, nodes }) {
  const lead = (kind, act, values = {}) => post(`${base}/${kind}${act}`, { nodes: JSON.stringify(nodes()), ...values });
  const card = document.getElementById("card");
  card.addEventListener("input", ({ target }) => { // a slider's number, as it is pulled
    if (target.type !== "range" || !KINDS.includes(target.dataset.set)) return;
    card.querySelector(`[data-set=${target.dataset.set}][data-field=${target.dataset.field}]:not([type=range])`).value = Number(target.value).toFixed(target.max > 20 ? 0 : 1);
  });
  card.addEventListener("change", ({ target }) => {
    const { set: kind, field } = target.dataset;
    const emptied = !target.value.trim() && field !== "limit";
    if (!KINDS.includes(kind) || emptied) return;
    lead(kind, "/set", { field, value: target.type === "checkbox" ? target.checked : target.value });
  });
  const acts = KINDS.flatMap((kind) => [
    [kind, () => lead(kind, "")],
    [`${kind}-alike`, () => lead(kind, "/alike")],
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
