// Whether what was done is on disk: a word in the header, and a line across the page while it is not.
import { again, caughtUp, putBack, standing, unsaved } from "./edits.js";

const EVERY = 2000; // ms between looks at how the document stands, while the page is seen
const LONG = 8000; // ms after which an edit under way is said to take long
let since = 0, deaf = false, down = false;

/** Show the state of the queue. */
export function paint({ count, trouble }) {
  const place = document.getElementById("saved");
  if (count && !since) since = Date.now();
  if (!count) since = 0;
  standing()?.classList.toggle("busy", count > 0);
  if (place) {
    const slow = count && Date.now() - since > LONG;
    place.dataset.state = trouble || deaf ? "not" : count ? "saving" : "saved";
    place.textContent = trouble ? "not saved" : deaf ? "no answer" : !count ? place.dataset.at : slow ? "saving takes long…" : "saving…";
  }
  banner(count, trouble);
}

function banner(count, trouble) {
  const place = document.getElementById("unsaved");
  place.hidden = !trouble;
  if (!trouble) return;
  place.querySelector("[data-why]").textContent = `Not saved: ${trouble}`;
  const waits = count > 1 ? `${count} gestures wait, in their order.` : "What you did waits.";
  place.querySelector("[data-waits]").textContent = `${waits} It is tried again by itself.`;
}

document.addEventListener("click", ({ target }) => {
  if (target.closest?.("#unsaved [data-again]")) again();
  if (target.closest?.("#unsaved [data-put-back]")) putBack();
});
addEventListener("online", () => unsaved().trouble && again());
addEventListener("beforeunload", (event) => { if (unsaved().trouble) event.preventDefault(); });

// A fragment that comes in says when things were saved; whether they are is for this page to know.
document.addEventListener("htmx:after:swap", () => paint(unsaved()));

for (const kind of ["pointerdown", "pointerup", "pointercancel"]) {
  addEventListener(kind, () => { down = kind === "pointerdown"; }, { capture: true });
}

/** Somebody is in the middle of something that fresh rows would disturb. */
function busy() {
  const at = document.activeElement;
  return down || (at?.matches?.("#card input, #card textarea") && at.value !== at.defaultValue);
}

/** Look how the document stands: other windows may have changed it, and the program may be gone. */
async function look() {
  const { kind, document: id } = standing()?.dataset ?? {};
  if (document.hidden || !id) return;
  try {
    const answer = await fetch(`/standing/${kind}/${id}`, { headers: { Accept: "application/json" } });
    deaf = answer.status >= 500;
    if (answer.ok && !busy()) await caughtUp((await answer.json()).revision);
  } catch {
    deaf = true;
  }
  const { count, trouble } = unsaved();
  if (!deaf && trouble && !count) again();
  paint(unsaved());
}

async function watch() {
  await look();
  setTimeout(watch, EVERY);
}
setTimeout(watch, EVERY);
document.addEventListener("visibilitychange", look);
