// What is done with the chosen beads.
import { post, remark } from "../shared/edits.js";

/** A typed number of the card, or NaN with a word about it. */
function typed(id) {
  const number = Number(document.getElementById(id).value.replace(",", "."));
  if (!Number.isFinite(number)) remark("Type a number.", "error");
  return number;
}

export function installBeads({ base, timeline, player, nodes }) {
  let taken = null;

  function edit(action, values = {}) {
    if (!timeline.picked.size) { remark("Choose some beads on the wires first.", "error"); return null; }
    return post(`${base}/beads/${action}`, { beads: JSON.stringify(timeline.picked.list), ...values });
  }

  const slide = (by) => (by ? edit("move", { by }) : null);

  function slideTyped(sign) {
    const by = typed("slide-by");
    if (Number.isFinite(by)) slide(sign * by);
  }

  /** All beads of what is chosen, or of every wire. */
  function chooseAll() {
    const owners = new Set(nodes().map(([, owner]) => owner));
    const rows = [...document.querySelectorAll(".wirerow.bone:not(.locked):not(.away), .seat .wirerow:not(.locked):not(.away)")];
    const meant = rows.filter((row) => !owners.size || owners.has(row.dataset.owner));
    timeline.picked.choose(meant.flatMap((row) => [...row.querySelectorAll(".bead")]), false);
  }

  const acts = {
    "their-beads": chooseAll,
    earlier: () => slideTyped(-1),
    later: () => slideTyped(1),
    "end-here": () => edit("end-here"),
    copy: () => edit("copy", { frame: player.frame }),
    reverse: () => edit("reverse"),
    amplify() {
      const factor = typed("amplify-by");
      if (Number.isFinite(factor)) edit("amplify", { factor, first: document.getElementById("amplify-about").value });
    },
    snap: () => edit("snap"),
    scale() {
      const factor = typed("scale-by");
      if (Number.isFinite(factor)) edit("scale", { factor, about: player.frame, whole: String(document.getElementById("scale-whole").checked) });
    },
    stagger() {
      const by = typed("stagger-by");
      if (Number.isFinite(by)) edit("stagger", { by });
    },
    "take-curve"() { taken = timeline.picked.list.slice(0, 1); remark("This spacing was taken. Choose other beads and reuse it."); },
    "reuse-curve"() {
      if (taken) edit("reuse", { source: JSON.stringify(taken) });
      else remark("No spacing was taken yet: choose a bead and take its spacing.", "error");
    },
  };

  document.addEventListener("click", (event) => {
    const ease = event.target.closest?.("[data-ease]")?.dataset.ease, name = event.target.closest?.("[data-space]")?.dataset.space;
    if (ease) edit("ease", { ease });
    if (name) edit("space", { name });
  });

  document.getElementById("card").addEventListener("change", ({ target }) => {
    if (target.id !== "hold-for") return;
    const frames = typed("hold-for");
    if (Number.isFinite(frames)) edit("hold-for", { frames });
  });

  return { acts, edit, slide };
}
