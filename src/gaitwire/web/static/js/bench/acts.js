// What the card's buttons and fields do: every one is an edit of the chosen bones, parts or pins.
import { post, remark } from "../shared/edits.js";

export function installActs(bench) {
  const { base, wires, chosen } = bench;
  const card = document.getElementById("card");
  const first = (kind) => [...chosen[kind]][0];
  const ids = (kind) => ({ ids: [...chosen[kind]].join(",") });
  const kindChosen = () => Object.keys(chosen).find((kind) => chosen[kind].size);

  /** After an edit that made something: that is chosen. */
  async function chooseMade(kind, work) {
    const headers = await work;
    if (headers?.get("Gw-Made")) bench.chooseAll(kind, headers.get("Gw-Made").split(","));
  }

  const order = (values) => post(`${base}/parts/order`, { ...ids("parts"), ...values });
  const mirror = (across) => {
    if (!chosen.bones.size) { remark("Choose the first bone of what to mirror.", "error"); return; }
    chooseMade("bones", post(`${base}/bones/mirror`, { ...ids("bones"), across }));
  };

  const ACTS = {
    group() {
      const parts = bench.model.parts.filter((part) => chosen.parts.has(part.id));
      const bones = chosen.bones.size ? [...chosen.bones] : [...new Set(parts.map((part) => part.bone))];
      if (!bones.length) { remark("Choose the bones or parts to group first.", "error"); return; }
      chooseMade("bones", post(`${base}/bones/group`, { ids: bones.join(",") }));
    },
    child() {
      const item = wires.get(first("bones"));
      const [x, y] = item.end ?? item.at;
      chooseMade("bones", post(`${base}/bones/add`, { x, y, parent: item.node.id, name: `${item.node.name} below` }));
    },
    insert() { chooseMade("bones", post(`${base}/bones/insert`, { bone: first("bones") })); },
    split() { chooseMade("bones", post(`${base}/bones/split`, { bone: first("bones"), pieces: document.getElementById("pieces").value })); },
    meet() { post(`${base}/bones/meet`, ids("bones")); },
    mirror() { mirror(false); },
    "mirror-across"() { mirror(true); },
    guess() { post(`${base}/bones/guess`, ids("bones")); },
    shadow() { post(`${base}/shadow`); },
    "guess-all"() { post(`${base}/bones/guess`); },
    remove() {
      if (bench.entry) { card.querySelector("[data-entry-clear]")?.click(); return; } // what is corrected there, not the art itself
      const kind = kindChosen();
      if (kind) post(`${base}/${kind}/remove`, ids(kind));
    },
    forward() { order({ steps: 1 }); },
    backward() { order({ steps: -1 }); },
    front() { order({ steps: 100000 }); },
    back() { order({ behind: "" }); },
    apart() { chooseMade("parts", post(`${base}/parts/${first("parts")}/apart`)); },
    join() { chooseMade("parts", post(`${base}/parts/join`, ids("parts"))); },
    "bone-of"() { bench.choose("bones", bench.model.parts.find((p) => chosen.parts.has(p.id))?.bone, false); },
    "part-of"() { bench.choose("parts", wires.get(first("pins"))?.node.part, false); },
    soften() { post(`${base}/parts/soften`, ids("parts")); },
    harden() { post(`${base}/parts/harden`, ids("parts")); },
    unbrush() { post(`${base}/parts/unbrush`, ids("parts")); },
    limb() { post(`${base}/limbs/add`, { tip: first("bones") }); },
    limbs() { post(`${base}/limbs/all`); },
    "limb-remove"() { post(`${base}/limbs/${card.querySelector("[data-limb]").dataset.limb}/remove`); },
    "drawing-empty"() { post(`${base}/parts/${first("parts")}/drawings/empty`); },
    "drawing-copy"() { post(`${base}/parts/${first("parts")}/drawings/copy`); },
  };

  document.addEventListener("click", (event) => {
    const at = (name) => event.target.closest?.(`[data-${name}]`)?.dataset[name.replace(/-(\w)/g, (_, letter) => letter.toUpperCase())];
    if (at("act")) ACTS[at("act")]?.();
    if (at("heat")) bench.heat.toggle(at("heat"));
    if (at("unbend")) bendWith(bending().filter((id) => id !== at("unbend")));
    if (at("pick-part")) bench.choose("parts", at("pick-part"), false);
    if (at("pick-pin")) bench.choose("pins", at("pick-pin"), false);
    if (at("pick-bone")) bench.choose("bones", at("pick-bone"), false);
    const drawing = event.target.closest?.("button[data-draw]");
    if (drawing) changeDrawing(drawing, drawing.dataset.value ?? "");
  });

  /** Bones that bend the chosen part, as the card lists them, its own left out. */
  function bending() { return [...card.querySelectorAll("[data-unbend]")].map((button) => button.dataset.unbend); }

  function bendWith(bones) { post(`${base}/parts/${first("parts")}/bends`, { bones: bones.join(",") }); }

  function changeDrawing(element, value) {
    const { drawing } = element.closest("[data-drawing]").dataset;
    post(`${base}/parts/${first("parts")}/drawing/${drawing}`, { act: element.dataset.draw, value });
  }

  const fieldValue = (input) => (input.type === "checkbox" ? String(input.checked) : input.value);

  const FIELDS = {
    puppet: (input) => post(`${base}/puppet`, { [input.name]: input.value }),
    limb: (input) => post(`${base}/limbs/${input.closest("[data-limb]").dataset.limb}/set`, { field: input.name, value: fieldValue(input) }),
  };

  /** Fields that are no plain values of what is chosen, by what marks them.
   * @type {[string, (input: any) => void][]} */
  const SPECIAL = [
    ["[data-role-of]", (input) => post(`${base}/bones/set`, { ids: input.dataset.roleOf, field: "role", value: input.value })],
    ["[data-stays]", (input) => { bench.stays.set(input.dataset.stays, Number(input.value)); bench.drawHints(); }],
    ["input[data-draw]", (input) => changeDrawing(input, input.value)],
    ["#bend-more", (input) => input.value && bendWith([...bending(), input.value])],
    ["#drawing-from", (input) => input.value && post(`${base}/parts/${first("parts")}/take-drawing`, { other: input.value, keep: document.getElementById("drawing-keep").checked })],
    ["#art-again", (input) => { if (input.files.length) post(`${base}/art`, {}, [...input.files]); input.value = ""; }],
    ["#drawing-file", (input) => input.files[0] && post(`${base}/parts/${first("parts")}/drawing-file`, {}, [input.files[0]])],
  ];

  card.addEventListener("change", (event) => {
    const input = event.target;
    const special = SPECIAL.find(([mark]) => input.matches(mark));
    if (special) { special[1](input); return; }
    const target = input.closest("[data-target]")?.dataset.target;
    if (!target || (input.value === "" && input.type === "number")) return;
    if (FIELDS[target]) FIELDS[target](input);
    else post(`${base}/${target}/set`, { ...ids(target), field: input.name, value: input.name === "grain" ? input.value || "0" : fieldValue(input) });
  });

  function rename() { card.querySelector("input[name=name]")?.select(); }
  document.addEventListener("dblclick", (event) => { if (event.target.closest?.(".rowline .pick")) rename(); });

  document.getElementById("search").addEventListener("input", (event) => {
    const wanted = event.target.value.trim().toLowerCase();
    for (const row of document.querySelectorAll(".rowline")) row.classList.toggle("unlike", !row.querySelector(".pick").textContent.toLowerCase().includes(wanted));
  });

  return {
    rename,
    run: (name) => ACTS[name](),
    cardShown() {
      bench.heat.mark();
      for (const select of card.querySelectorAll("[data-stays]")) select.value = String(bench.stays.get(select.dataset.stays) ?? 0);
    },
  };
}
