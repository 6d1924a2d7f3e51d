// Work on timing: stays, repeats, thinning, clearing, offsets over a span, markers.
import { post, remark } from "../shared/edits.js";

const field = (id) => document.getElementById(id).value;

export function installHolding({ base, nodes, shownNodes, player, timeline, first, toScene }) {
  /** What is chosen, and whether all that hangs from it is meant too; nothing chosen: nothing. */
  const wanted = () => ({ nodes: JSON.stringify(nodes()), hangers: String(Boolean(document.getElementById("with-hangers")?.checked)) });

  function stay() {
    const some = JSON.stringify(nodes().length ? nodes() : shownNodes());
    const { span } = timeline;
    if (span) post(`${base}/stay-over`, { nodes: some, start: span[0], stop: span[1] });
    else post(`${base}/stay`, { nodes: some, frame: player.frame });
  }

  async function marker() {
    if (!document.getElementById("marker-name")) await toScene();
    const known = document.getElementById("marker-name");
    const name = known?.value.trim();
    if (name) { known.value = ""; post(`${base}/markers/put`, { frame: player.frame, name }); }
    else if (known) { known.focus(); remark("Type a name for this frame."); }
  }

  function repeat() {
    const ends = { start: document.getElementById("repeat-from")?.value ?? "", stop: document.getElementById("repeat-to")?.value ?? "" };
    post(`${base}/repeat`, { nodes: JSON.stringify(nodes()), kind: field("repeat-kind"), ...ends });
  }

  function offset() {
    const from = timeline.span?.[0] ?? player.frame, to = timeline.span?.[1] ?? Math.min(player.frame + 12, player.info.frames);
    const soft = String(Math.max(0, Math.min(4, Math.floor((to - from) / 3))));
    post(`${base}/offsets/put`, {
      nodes: JSON.stringify(nodes()), prop: field("offset-prop"), amount: field("offset-amount"),
      start: from + first(), stop: to + first(), soft_in: soft, soft_out: soft,
    });
  }

  function clear() {
    const [start, stop] = ["clear-from", "clear-to"].map((id) => Number(field(id).replace(",", ".")) - first());
    if (Number.isFinite(start) && Number.isFinite(stop)) post(`${base}/beads/clear`, { ...wanted(), start, stop });
    else remark("Type the frames to clear from and to.", "error");
  }

  const acts = {
    stay, marker, offset, clear,
    thin: () => post(`${base}/thin`, { ...wanted(), allowed: field("thin-by") }),
    "show-only"(button) {
      const home = button.closest("[data-nodes]");
      post(`${base}/show-only`, { nodes: home.dataset.nodes, spans: home.querySelector("[data-only]").value });
    },
    "swap-with"(button) {
      const home = button.closest("[data-nodes]"), other = home.querySelector("[data-swap]").value;
      if (other) post(`${base}/swap`, { nodes: home.dataset.nodes, other, frame: player.frame });
      else remark("Choose first what is to take its place.");
    },
    "close-seams": () => post(`${base}/close-seams`, nodes().length ? { nodes: JSON.stringify(nodes()) } : {}),
    "ease-seams": () => post(`${base}/ease-seams`, { over: field("ease-over"), ...(nodes().length ? { nodes: JSON.stringify(nodes()) } : {}) }),
    "loop-of": (button) => post(`${base}/set`, { field: "frames", value: button.dataset.frames }),
    "hold-creeps": () => post(`${base}/hold-creeps`),
    "to-marker": (button) => player.seek(Number(button.dataset.frame)),
    "marker-away": (button) => post(`${base}/markers/${button.dataset.marker}/remove`),
    "offset-away": (button) => post(`${base}/offsets/${button.closest("[data-offset]").dataset.offset}/remove`),
  };

  document.getElementById("card").addEventListener("change", ({ target }) => {
    const whose = target.closest("[data-offset]")?.dataset.offset;
    if (target.dataset.set === "offset") post(`${base}/offsets/${whose}/set`, { field: target.name, value: target.value });
    if ("repeat" in target.dataset) repeat();
    if (target.id === "repeat-all") post(`${base}/repeat`, { nodes: JSON.stringify(shownNodes()), kind: target.value === "none" ? "" : target.value });
  });
  document.getElementById("card").addEventListener("keydown", (event) => {
    if (event.target.id === "marker-name" && event.key === "Enter") { event.preventDefault(); marker(); }
  });

  return { acts, stay, marker };
}
