// Copying and pasting of poses and beads, across scenes too; and the shelf of saved poses.
import { ask } from "../shared/asking.js";
import { typing } from "../shared/common.js";
import { post, remark } from "../shared/edits.js";

const KEPT = "gaitwire-clip";

export function installClips({ base, subject, nodes, beads, blocks, player }) {
  let known = "";
  const box = document.getElementById("poseshelf-box");
  const share = () => document.getElementById("pose-share").value;
  const meant = () => ({ instance: subject()?.instance ?? "", frame: player.frame, nodes: JSON.stringify(nodes()), blocking: String(blocks()) });

  async function copy() {
    if (!subject()) return;
    const values = new URLSearchParams({ ...meant(), beads: JSON.stringify(beads()) });
    const answer = await fetch(`${base}/clip/copy`, { method: "POST", body: values });
    if (!answer.ok) { remark("There is nothing to copy: choose beads, or bones of a puppet.", "error"); return; }
    localStorage.setItem(KEPT, await answer.text());
    remark(beads().length ? "The beads were copied." : "The pose was copied.");
  }

  function paste(way = "") {
    if (!subject()) return;
    post(`${base}/clip/paste`, { ...meant(), clip: localStorage.getItem(KEPT) ?? "", way, share: share() });
  }

  /** Fetch the shelf of the puppet that is worked on, if it is another one now or has changed. */
  async function fetchShelf() {
    const found = subject(), version = found ? `${found.instance}:${found.version}` : "";
    if (version === known) return;
    known = version;
    if (!found) { box.replaceChildren(); return; }
    const text = await (await ask(`${base}/poseshelf/${found.instance}`)).text();
    box.replaceChildren(new DOMParser().parseFromString(text, "text/html").body.firstElementChild);
  }

  box.addEventListener("click", (event) => {
    const apply = event.target.closest("[data-apply]"), drop = event.target.closest("[data-drop-pose]");
    if (apply) post(`${base}/poseshelf/${apply.dataset.apply}/apply`, { ...meant(), share: share(), way: event.altKey ? "sides" : "" });
    if (drop) post(`${base}/poseshelf/${drop.dataset.dropPose}/remove`);
  });
  box.addEventListener("change", ({ target }) => {
    if (target.dataset.starting) post(`${base}/poseshelf/${target.dataset.starting}/starting`, { starts: String(target.checked) });
    if (target.dataset.rename) post(`${base}/poseshelf/${target.dataset.rename}/rename`, { name: target.value });
  });

  document.addEventListener("keydown", (event) => {
    if (typing(event) || !(event.ctrlKey || event.metaKey) || event.altKey || window.getSelection()?.toString()) return;
    const work = { c: copy, v: () => paste(event.shiftKey ? "sides" : "") }[event.key.toLowerCase()];
    if (work) { event.preventDefault(); work(); }
  });

  const acts = {
    "clip-copy": copy,
    "clip-paste": () => paste(),
    "pose-save": () => post(`${base}/poseshelf/save`, meant()),
    "turn-over": (_, event) => post(`${base}/clip/mirror`, { ...meant(), way: event.altKey ? "across" : "sides" }),
  };
  return { acts, fetch: fetchShelf };
}
