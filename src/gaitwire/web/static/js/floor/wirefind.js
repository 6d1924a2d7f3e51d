// Which wires are shown: by name or region, and only those with beads.

export function installWireFind(timeline) {
  const search = () => document.getElementById("wire-search"), keyed = () => document.getElementById("wire-keyed");
  const state = { text: "", keyed: false, only: null };

  /** Put the filter on again, as after the server has sent wires anew. */
  function apply() {
    const any = state.text !== "" || state.keyed || state.only !== null;
    if (!any && !document.getElementById("wires").classList.contains("filtered")) return;
    search().value = state.text;
    keyed().setAttribute("aria-pressed", String(state.keyed));
    document.getElementById("wires").classList.toggle("filtered", any);
    for (const group of document.querySelectorAll("#wires .tl-group")) {
      let left = 0;
      for (const row of group.querySelectorAll(".wirerow")) {
        const head = row.classList.contains("head") && !group.classList.contains("seat");
        const fits = (row.querySelector(".pick").textContent.toLowerCase().includes(state.text) || row.dataset.group.toLowerCase().includes(state.text))
          && (!state.keyed || row.querySelector(".bead") !== null)
          && (state.only === null || state.only.has(row.dataset.owner));
        row.classList.toggle("away", any && !head && !fits);
        if (!head && fits) left += 1;
      }
      group.classList.toggle("away", any && left === 0);
    }
    timeline.overview();
  }

  document.addEventListener("input", (event) => {
    if (event.target.id !== "wire-search") return;
    state.text = event.target.value.trim().toLowerCase();
    apply();
  });
  document.addEventListener("click", (event) => {
    if (event.target.id !== "wire-keyed") return;
    state.keyed = !state.keyed;
    apply();
  });

  return { apply, only(ids) { state.only = ids; apply(); } };
}
