// Joints that hold together: gaps measured, remedies, and the range test played on the stage.
import { ask } from "../shared/asking.js";
import { post } from "../shared/edits.js";
import { framesOf, headOf } from "../stage/frames.js";
import { svg } from "../stage/stage.js";

export function installMending(bench) {
  const { base, stage } = bench;
  const card = document.getElementById("card");
  const strip = document.getElementById("rangestrip");
  let test = null, began = 0, frame = 0, held = false;

  async function fill(place, url) {
    const answer = await fetch(url, { headers: { Accept: "application/json" } });
    if (!place.isConnected) return;
    if (answer.ok) { place.innerHTML = await answer.text(); return; }
    const { message, hint } = await answer.json();
    place.textContent = `${message} ${hint}`;
  }

  /** What the card leaves a place for is fetched when it is shown. */
  function cardShown() {
    const place = card.querySelector("#gap[data-load]");
    if (place) fill(place, place.dataset.load);
  }

  document.addEventListener("click", ({ target }) => {
    const remedies = target.closest?.("[data-remedies]"), mend = target.closest?.("[data-mend]");
    if (remedies) fill(card.querySelector("#gap"), `${base}/gap/${remedies.dataset.remedies}?remedies=true`);
    if (mend) post(`${base}/gap/${mend.dataset.of}/mend`, { kind: mend.dataset.mend });
    if (target.closest?.("[data-gaps]")) fill(card.querySelector("#gaps"), `${base}/gaps`);
    if (target.closest?.("[data-range]")) play();
    if (target.closest?.("#range-end")) stop();
    const rig = target.closest?.("[data-copy-rig]");
    if (rig) post(`${base}/rig`, { source: rig.dataset.copyRig });
  });
  card.addEventListener("change", ({ target }) => {
    if (target.matches("#rig-from") && target.value) fill(card.querySelector("#rig-found"), `${base}/rig/${target.value}`);
  });

  // ── the range test ──

  async function play() {
    const answer = await ask(`${base}/range.bin`);
    const reply = await answer.arrayBuffer();
    const head = headOf(reply), frames = framesOf(reply);
    test = { ...head, frames };
    [began, frame, held] = [performance.now(), 0, false];
    strip.hidden = false;
    draw();
    requestAnimationFrame(tick);
  }

  /** Back to rest; whether anything was played. */
  function stop() {
    if (!test) return false;
    test = null;
    strip.hidden = true;
    stage.show(bench.rest);
    return true;
  }

  function tick(now) {
    if (!test) return;
    if (!held) frame = Math.floor((Math.max(0, now - began) / 1000) * test.rate) % test.frames.count; // the clock of pictures may lag
    stage.show(test.frames, frame);
    tell();
    requestAnimationFrame(tick);
  }

  function tell() {
    const joint = test.joints.find(({ first, frames }) => first <= frame && frame < first + frames);
    const open = test.joints.filter((one) => one.open.includes(frame)).map(({ name }) => name);
    const said = `${joint ? joint.name : "all together"}${open.length ? `: open at ${open.join(", ")}` : ""}`;
    const place = strip.querySelector("output");
    if (place.textContent !== said) place.textContent = said;
    place.classList.toggle("open", open.length > 0);
    strip.querySelector(".now").setAttribute("x", `${(100 * frame) / test.frames.count}%`);
  }

  /** All frames as a bar: a stretch for each joint, plum where something opens. */
  function draw() {
    const bar = strip.querySelector("svg"), count = test.frames.count;
    bar.replaceChildren();
    const at = (value) => `${(100 * value) / count}%`;
    const spans = [...test.joints.map(({ first, frames }) => [first, frames]), [test.together, count - test.together]];
    spans.forEach(([first, long], n) => svg("rect", { class: n % 2 ? "odd" : "even", x: at(first), width: at(long), y: 0, height: 16 }, bar));
    for (const one of new Set(test.joints.flatMap(({ open }) => open))) svg("rect", { class: "opens", x: at(one), width: at(1.2), y: 4, height: 8 }, bar);
    svg("rect", { class: "now", x: 0, width: 2, y: 0, height: 16 }, bar);
  }

  strip.querySelector("svg").addEventListener("pointerdown", (event) => {
    const box = event.currentTarget.getBoundingClientRect();
    frame = Math.min(test.frames.count - 1, Math.floor(((event.clientX - box.left) / box.width) * test.frames.count));
    held = !(held && event.detail > 1);
    began = performance.now() - (frame / test.rate) * 1000;
  });

  return { cardShown, play, stop };
}
