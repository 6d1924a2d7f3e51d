// Braces: tips that stay where they are while the body is posed. The server holds them; here they are set, kept for
// this page and drawn, as two short strokes of ground under each.
import { installBearings } from "./bearings.js";
import { carried, remark } from "../shared/edits.js";
import { svg } from "../stage/stage.js";

const HELD = { place: "", angle: " keeps its angle", gaze: " keeps its gaze" };

export function installBraces({ stage, wires, limbs, node, nodes, subject, player, bearings }) {
  const store = `braces:${document.body.dataset.document}`;
  const root = svg("g", { class: "braces" }, stage.overlay);
  let on = new Map(); // "instance:owner" to [instance, owner, kind]
  try { on = new Map(JSON.parse(localStorage.getItem(store) ?? "[]").map((brace) => [`${brace[0]}:${brace[1]}`, brace])); } catch { /* then none */ }

  const tips = (instance) => limbs().filter((limb) => limb.instance === instance);
  const limbOf = (instance, id) => limbs().find((limb) => limb.instance === instance && limb.id === id);

  function save() {
    const list = [...on.values()];
    if (list.length) carried["Gw-Braces"] = JSON.stringify(list);
    else delete carried["Gw-Braces"];
    try { localStorage.setItem(store, JSON.stringify(list)); } catch { /* then only for this page */ }
    paint();
  }

  /** What can be braced of a chosen node: its limb's tip, a pin's place, a head's angle and then its gaze. */
  function braceOf([instance, owner]) {
    const limb = limbs().find((one) => one.instance === instance && (one.id === owner || one.joints.includes(owner)));
    if (limb) return { key: `${instance}:${limb.id}`, kinds: ["place"] };
    const { kind, region } = node(`${instance}:${owner}`) ?? {};
    if (kind === "lead") return { key: `${instance}:${owner}`, kinds: ["place"] };
    return kind === "bone" && region === "head" ? { key: `${instance}:${owner}`, kinds: ["angle", "gaze"] } : null;
  }

  function put(key, kind) {
    if (kind) on.set(key, [...key.split(":"), kind]);
    else on.delete(key);
  }

  /** All on or all off; a bone of its own goes from its angle to its gaze before it is free again. */
  function flip(found) {
    const kinds = found.map(({ key, kinds: can }) => can[can.indexOf(on.get(key)?.[2]) + 1]);
    const all = found.every(({ key }) => on.has(key));
    found.forEach(({ key, kinds: can }, n) => { if (all) put(key, kinds[n]); else if (!on.has(key)) put(key, can[0]); });
    save();
  }

  function toggle() {
    const own = nodes().map(braceOf).filter(Boolean);
    const all = () => tips(subject()?.instance).map((limb) => ({ key: `${limb.instance}:${limb.id}`, kinds: ["place"] }));
    const found = [...new Map((own.length ? own : all()).map((one) => [one.key, one])).values()];
    if (found.length) flip(found);
    else remark("This puppet has no limbs. They are made on the Bench; pins and heads can be braced when they are chosen.", "error");
  }

  // ── what is seen ──

  function nameOf([instance, owner, kind]) {
    return `${limbOf(instance, owner)?.name ?? node(`${instance}:${owner}`)?.name ?? "?"}${HELD[kind]}`;
  }

  function paint() {
    const whose = subject()?.instance, mine = [...on.values()].filter(([instance]) => instance === whose);
    for (const mark of document.querySelectorAll("#mapbox [data-brace]")) mark.setAttribute("aria-pressed", String(on.has(`${whose}:${mark.dataset.brace}`)));
    document.getElementById("brace").setAttribute("aria-pressed", String(mine.length > 0));
    const said = document.getElementById("brace-said");
    said.hidden = !mine.length;
    said.textContent = mine.length ? `Braced while you pose: ${mine.map(nameOf).join(", ")}` : "";
    stage.redraw();
  }

  function draw() {
    const shown = wires.visible && !wires.resting && stage.frames ? [...on.values()] : [];
    const places = shown.map((brace) => [brace, placeOf(brace)]).filter(([, at]) => at);
    const state = JSON.stringify(places);
    if (state === root.state) return;
    root.state = state;
    root.replaceChildren();
    for (const [brace, [x, y]] of places) {
      const group = svg("g", { class: "bracemark", transform: `translate(${x.toFixed(1)} ${y.toFixed(1)})`, "data-braced": `${brace[0]}:${brace[1]}`, role: "button", "aria-pressed": "true", "aria-label": `Braced: ${nameOf(brace)}` }, root);
      svg("rect", { class: "reach", x: -14, y: -6, width: 28, height: 16 }, group);
      svg("path", { d: "M-10 0H10M-5 5H5" }, group);
    }
  }

  /** Under what it stands on, in pixels of the window. */
  function placeOf([instance, owner]) {
    const limb = limbOf(instance, owner), item = wires.byId?.get(`${instance}:${limb?.tip ?? owner}`);
    if (!item) return null;
    const [a, b, c, d, e, f] = stage.frames.bone(stage.index, item.index), [x, y] = limb?.stands ?? [0, 0];
    const [sx, sy] = stage.toScreen(a * x + c * y + e, b * x + d * y + f);
    return [sx, sy + (limb ? 7 : 14)];
  }

  document.getElementById("brace").addEventListener("click", toggle);
  document.addEventListener("click", ({ target }) => {
    const mark = target.closest?.("#mapbox [data-brace]");
    if (mark) flip([{ key: `${subject().instance}:${mark.dataset.brace}`, kinds: ["place"] }]);
  });
  stage.host.addEventListener("pointerdown", (event) => {
    const mark = event.target.closest?.("[data-braced]");
    if (!mark || event.button !== 0) return;
    event.stopImmediatePropagation();
    put(mark.dataset.braced, null);
    save();
  }, { capture: true });
  stage.onDraw(draw);
  if (on.size) save();

  return {
    toggle, paint, tips, ...installBearings({ stage, player, wires, bearings, subject }),
    /** What a drag of a puppet is sent with; `all`: all of its hands and feet besides. */
    sent(instance, all = false) {
      const found = new Map([...on].filter(([, [whose]]) => whose === instance));
      if (all) for (const limb of tips(instance)) found.set(`${instance}:${limb.id}`, [instance, limb.id, "place"]);
      return [...found.values()];
    },
  };
}
