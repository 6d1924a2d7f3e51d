// The two lists of the Bench: pick rows, press marks, drag to hang and to order.
import { post } from "../shared/edits.js";

function edge(row, event) {
  const box = row.getBoundingClientRect();
  const share = (event.clientY - box.top) / box.height;
  if (row.dataset.part) return share < 0.5 ? "before" : "after";
  if (share < 0.25) return "before";
  return share > 0.75 ? "after" : "into";
}

function clear() {
  for (const row of document.querySelectorAll(".drop-into, .drop-before, .drop-after")) row.classList.remove("drop-into", "drop-before", "drop-after");
}

export function installLists({ base, chosen, choose }) {
  let dragged = null;
  let anchor = null;

  function rowsBetween(kind, from, to) {
    const rows = [...document.querySelectorAll(`.rowline[data-${kind}]`)].map((row) => row.dataset[kind]);
    const [a, b] = [rows.indexOf(from), rows.indexOf(to)].sort((x, y) => x - y);
    return rows.slice(Math.max(a, 0), b + 1);
  }

  document.addEventListener("click", (event) => {
    const mark = event.target.closest?.(".mark");
    if (mark) {
      const on = mark.getAttribute("aria-pressed") !== "true";
      post(`${base}/${mark.dataset.kind}s/set`, { ids: mark.dataset.id, field: mark.dataset.mark, value: String(on) });
      return;
    }
    const row = event.target.closest?.(".rowline");
    if (!row) return;
    const kind = row.dataset.bone ? "bone" : "part";
    const id = row.dataset[kind];
    if (event.shiftKey && anchor?.kind === kind) {
      for (const between of rowsBetween(kind, anchor.id, id)) chosen[`${kind}s`].add(between);
      chosen[`${kind}s`].delete(id);
      choose(`${kind}s`, id, true);
    } else {
      choose(`${kind}s`, id, event.ctrlKey || event.metaKey);
      anchor = { kind, id };
    }
  });

  document.addEventListener("dragstart", (event) => {
    const row = event.target.closest?.(".rowline");
    if (!row) return;
    const kind = row.dataset.bone ? "bone" : "part";
    const id = row.dataset[kind];
    const ids = chosen[`${kind}s`].has(id) ? [...chosen[`${kind}s`]] : [id];
    dragged = { kind, ids };
    event.dataTransfer.setData("text/plain", id);
    event.dataTransfer.effectAllowed = "move";
  });
  document.addEventListener("dragend", () => { dragged = null; clear(); });

  document.addEventListener("dragover", (event) => {
    const row = event.target.closest?.(".rowline");
    if (!dragged || !row) return;
    const onBone = Boolean(row.dataset.bone);
    if (dragged.kind === "bone" && !onBone) return;
    event.preventDefault();
    clear();
    row.classList.add(`drop-${dragged.kind === "part" && onBone ? "into" : edge(row, event)}`);
  });

  document.addEventListener("drop", (event) => {
    const row = event.target.closest?.(".rowline");
    if (!dragged || !row) return;
    event.preventDefault();
    const ids = dragged.ids.join(",");
    const place = edge(row, event);
    if (dragged.kind === "part" && row.dataset.bone) post(`${base}/parts/hang`, { ids, bone: row.dataset.bone });
    else if (dragged.kind === "part") dropPart(ids, row, place);
    else if (dragged.kind === "bone" && row.dataset.bone) dropBone(ids, row, place);
    clear();
  });

  function dropPart(ids, row, place) {
    // The list runs front to back: below a row is behind it.
    const rows = [...document.querySelectorAll(".rowline[data-part]")].filter((r) => !dragged.ids.includes(r.dataset.part) || r === row);
    const behind = place === "before" ? row : rows[rows.indexOf(row) + 1];
    if (behind && dragged.ids.includes(behind.dataset.part)) return;
    post(`${base}/parts/order`, { ids, behind: behind?.dataset.part ?? "" });
  }

  function dropBone(ids, row, place) {
    const target = row.dataset.bone;
    if (place === "into") { post(`${base}/bones/hang`, { ids, parent: target }); return; }
    post(`${base}/bones/hang`, { ids, beside: target, place });
  }
}
