// Bend fixes, pads and gauges on the Bench: their dials, and the tool that corrects the puppet at one of their places.
import { ask } from "../shared/asking.js";
import { installDials } from "../stage/dial.js";
import { post, remark, settled } from "../shared/edits.js";
import { svg } from "../stage/stage.js";

const NEAR = 9; // pixels from a point of an outline within which it is caught
const KINDS = { bones: "bone", parts: "part", pins: "pin" };

export function installCorrecting(bench) {
  const { base, stage, live, hints, chosen } = bench;
  const card = document.getElementById("card"), strip = document.getElementById("fixstrip");
  const instance = document.body.dataset.document;
  let way = "shift", anchors = [], asked = "", stood = null;
  const picked = new Set();

  // ── the dials on the card: the puppet is shown as it stands there ──

  const control = (dial) => bench.model.controls.find(({ id }) => id === dial.dataset.dial);

  const dials = installDials(card, {
    moved(dial, x, y) {
      if (bench.entry) return;
      stood = [x, y];
      const { kind } = dial.dataset, node = kind === "fix" ? dial.dataset.joint : dial.dataset.dial;
      bench.standing = (head, frames) => stage.follow(frames);
      live.send({ kind: "stand", control: kind, x, y, nodes: [[instance, node]] });
      tell(dial, x, y);
    },
    set(dial) { card.querySelector("[data-store-here]")?.toggleAttribute("hidden", bench.entry !== null || !control(dial)); },
    carried(id, x, y) { post(`${base}/entries/${id}/place`, { x, y }); },
    dropped: rest,
  });

  function tell(dial, x, y) {
    const unit = dial.dataset.kind === "gauge" ? "%" : "°";
    card.querySelector(".reading").textContent = dial.dataset.kind === "pad" ? `${x}°, ${y}° up` : `${x}${unit}`;
  }

  /** Back to how the puppet stands by itself; whether it stood elsewhere. */
  function rest() {
    bench.standing = null;
    const was = stood !== null;
    stood = null;
    if (was && bench.rest) { live.drop(); stage.show(bench.rest); }
    for (const point of card.querySelectorAll(".dial .point")) point.setAttribute("hidden", "");
    card.querySelector("[data-store-here]")?.setAttribute("hidden", "");
    return was;
  }

  // ── a place is corrected ──

  function start(id) {
    rest();
    bench.entry = id;
    strip.hidden = false;
    picked.clear();
    bench.chooseAll("parts", []);
    bench.setTool("correct");
    bench.load();
  }

  /** Whether a place was being corrected. */
  function stop() {
    if (!bench.entry) return rest();
    const { control: owner } = bench.model?.entries.find(({ id }) => id === bench.entry) ?? {};
    bench.entry = null;
    strip.hidden = true;
    stage.host.classList.remove("fixing");
    bench.setTool("pick");
    if (owner) bench.choose("controls", owner, false);
    bench.load();
    return true;
  }

  /** After the page has what it shows: a place that is gone is not corrected any more. */
  function loaded() {
    stood = null;
    bench.standing = null;
    if (!bench.entry) return;
    const entry = bench.model.entries.find(({ id }) => id === bench.entry);
    if (!entry) { stop(); return; }
    const { kind } = bench.model.controls.find(({ id }) => id === entry.control);
    bench.fixing = kind === "fix";
    stage.host.classList.toggle("fixing", bench.fixing); // art is what is picked then
    strip.querySelector("output").textContent = `correcting ${entry.title}`;
    fetchAnchors();
  }

  const onePart = () => (chosen.parts.size === 1 ? [...chosen.parts][0] : null);

  async function fetchAnchors() {
    const part = onePart();
    if (!bench.entry || way !== "points" || !part) { anchors = []; bench.drawHints(); return; }
    asked = `${bench.entry}/${part}/${bench.model.revision}`;
    const mine = asked;
    const found = await (await ask(`${base}/entries/${bench.entry}/anchors/${part}.json`)).json();
    if (mine !== asked) return;
    anchors = found;
    if (!found.length) remark("This part has no points to move here: soft parts have pins, pictures have neither.", "error");
    bench.drawHints();
  }

  function setWay(name) {
    way = name;
    picked.clear();
    for (const button of strip.querySelectorAll("[data-way]")) button.setAttribute("aria-checked", String(button.dataset.way === name));
    fetchAnchors();
  }

  function caughtAnchor(x, y) {
    const [px, py] = stage.toScreen(x, y);
    return anchors.find(([, ax, ay]) => { const [sx, sy] = stage.toScreen(ax, ay); return Math.hypot(sx - px, sy - py) < NEAR; });
  }

  /** What a press takes hold of: [kind in the lists, id], or null. A bend fix corrects parts, pads and gauges bones too. */
  function under(event, [x, y], grip) {
    if (grip?.kind === "pin") return ["pins", grip.bone];
    if (grip && !bench.fixing) return ["bones", grip.bone];
    const part = stage.partAt(x, y);
    if (!part) return null;
    return bench.fixing || event.altKey ? ["parts", part.id] : ["bones", part.bone];
  }

  function owners() {
    const kind = Object.keys(KINDS).find((name) => chosen[name].size);
    return kind ? [...chosen[kind]].map((id) => [KINDS[kind], id]) : [];
  }

  bench.tools.correct = {
    draw() {
      for (const [index, x, y] of way === "points" ? anchors : []) {
        const [sx, sy] = stage.toScreen(x, y);
        svg("rect", { class: `anchorpoint ${picked.has(index) ? "chosen" : ""}`, x: sx - 4, y: sy - 4, width: 8, height: 8, rx: 2 }, hints);
      }
    },
    down(event, point, grip) {
      const anchor = way === "points" ? caughtAnchor(...point) : null;
      if (anchor) {
        if (!event.shiftKey && !picked.has(anchor[0])) picked.clear();
        if (event.shiftKey && picked.has(anchor[0])) picked.delete(anchor[0]);
        else picked.add(anchor[0]);
        bench.gesture = { kind: "correct", from: point, anchors: [...picked], began: performance.now() | 0 };
        bench.drawHints();
        return;
      }
      const found = way === "points" ? ((part) => part && ["parts", part.id])(stage.partAt(...point)) : under(event, point, grip);
      if (!found) { bench.choose("parts", null, false); return; }
      if (event.shiftKey || !chosen[found[0]].has(found[1])) { picked.clear(); bench.choose(...found, event.shiftKey); fetchAnchors(); }
      if (way !== "points") bench.gesture = { kind: "correct", from: point, anchors: [], began: performance.now() | 0 };
    },
    move(event, [x, y]) {
      const { from, anchors: moved, began } = bench.gesture;
      live.send({ kind: "correct", entry: bench.entry, gesture: way, nodes: owners(), anchors: moved, x, y, from_x: from[0], from_y: from[1], began });
    },
    async up() {
      await live.settled();
      const { rows, reshapes } = bench.gesture ?? {};
      if (!rows) return;
      const fine = await post(`${base}/entries/${bench.entry}/rows`, { rows: JSON.stringify(rows), reshapes: JSON.stringify(reshapes) });
      if (!fine) stage.show(bench.rest);
    },
    reply(head, frames) {
      Object.assign(bench.gesture, { rows: head.rows, reshapes: head.reshapes, text: head.said, draw: drawSaid });
      if (head.anchors) anchors = head.anchors;
      stage.follow(frames);
    },
  };

  function drawSaid() {
    const [x, y] = stage.toScreen(...bench.gesture.from);
    if (bench.gesture.text) bench.label(x + 14, y - 14, bench.gesture.text);
  }

  // ── the card and the strip ──

  const owner = (element) => element.closest("[data-control]").dataset.control;

  async function made(work, then) {
    const headers = await work;
    if (headers?.get("Gw-Made")) { await settled(); then(headers.get("Gw-Made")); }
  }

  const CLICKS = {
    pickControl: (id) => bench.choose("controls", id, false),
    newControl: (kind) => made(post(`${base}/controls/add`, { kind }), (id) => bench.choose("controls", id, false)),
    newAngle: (bone, button) => made(post(`${base}/fixes/add`, { bone, angle: button.parentElement.querySelector("[data-angle]").value.replace(",", ".") }), start),
    correct: (id) => start(id),
    forget: (id) => post(`${base}/entries/remove`, { ids: id }),
    storeHere: (_, button) => made(post(`${base}/controls/${owner(button)}/entries/add`, { x: stood[0], y: stood[1] }), start),
    blank: (name, mark) => made(post(`${base}/controls/${owner(mark)}/entries/add`, { x: mark.dataset.x, y: mark.dataset.y, name }), start),
    reflect: (id, button) => post(`${base}/controls/${owner(button)}/reflect`, { ids: id }),
    mirrorFix: (across, button) => post(`${base}/controls/${owner(button)}/mirror`, { across }),
    controlStep: (steps) => post(`${base}/controls/${[...chosen.controls][0]}/step`, { steps }),
    controlRemove: () => post(`${base}/controls/remove`, { ids: [...chosen.controls].join(",") }),
    entryClear: (_, button) => post(`${base}/entries/${bench.entry}/clear`, { owners: button.closest("[data-owners]").dataset.owners }),
    way: (name) => setWay(name),
    order(steps) {
      if (!chosen.parts.size) { remark("Choose the parts to bring forward or back first.", "error"); return; }
      post(`${base}/entries/${bench.entry}/order`, { owners: JSON.stringify(owners()), steps });
    },
  };

  document.addEventListener("click", ({ target }) => {
    for (const [name, work] of Object.entries(CLICKS)) {
      const found = target.closest?.(`[data-${name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)}]`);
      if (found) work(found.dataset[name], found);
    }
  });
  document.getElementById("fix-end").addEventListener("click", stop);

  card.addEventListener("change", ({ target }) => {
    const value = target.type === "checkbox" ? String(target.checked) : target.value;
    if (target.matches("[data-control-field]")) post(`${base}/controls/${owner(target)}/set`, { field: target.name, value });
    if (target.matches("[data-entry-field]")) post(`${base}/entries/${target.closest("[data-entry]").dataset.entry}/set`, { field: target.name, value });
    const home = target.closest("[data-entry-values]");
    if (home && target.matches("[data-entry-value]")) post(`${base}/entries/${home.dataset.entryValues}/value`, { owners: home.dataset.owners, field: target.name, value });
  });

  /** Keys while a place is corrected; whether it was one of them. */
  const WAYS = { s: "shift", t: "turn", e: "stretch", w: "widen", k: "skew", o: "points" };
  function key(name) {
    if (!bench.entry || !WAYS[name]) return false;
    setWay(WAYS[name]);
    return true;
  }

  return { start, stop, rest, loaded, key, get dialling() { return dials.busy; } };
}
