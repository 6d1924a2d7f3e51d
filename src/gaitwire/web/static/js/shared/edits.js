// Edits: one queue to the server, each carrying the revision the page was looking at and a name of its own.
// The server answers with the fragments that changed; htmx puts them in their places. What could not be
// stored waits here and is tried again, in its order, until it is stored or taken back.
import { paint } from "./saved.js";

const ASKS = 428; // the gesture waits for a word: it would move pictures of scenes
const HELD = new Set([502, 503, 504, 507]); // not stored, by no fault of the gesture's
const PAUSES = [1500, 3000, 6000, 12000, 20000]; // between tries, in ms
const state = {
  revision: null, behind: false, catching: 0, // what the page shows, whether others have changed more than that, fetches of it
  queue: [], sending: false, last: null, // edits that are not on disk yet, in their order
  trouble: "", tries: 0, timer: 0, // why the first of them is not, and when it is tried again
  asked: null, allowed: null,
};

export function standing() { return document.getElementById("standing"); }

export function revision() {
  if (state.revision === null) state.revision = standing()?.dataset.revision ?? "";
  return state.revision;
}

/** Further headers of every edit, as those want them who look after what the page is set to. */
export const carried = {};

/** How many edits are not on disk yet, and why the first of them is not, if something is wrong. */
export function unsaved() { return { count: state.queue.length, trouble: state.trouble }; }

export function remark(text, kind = "") {
  const place = document.getElementById("remarks");
  const line = document.createElement("p");
  line.className = `remark ${kind}`;
  if (kind === "error") line.setAttribute("role", "alert");
  line.textContent = text;
  place.replaceChildren(line);
}

/** Post values, and files if there are any, as one gesture; resolves with the response's headers, or null when it was refused. */
export function post(url, values = {}, files = [], word = "") {
  document.getElementById("ask")?.replaceChildren(); // another gesture instead of an answer
  const work = new Promise((resolve) => {
    state.queue.push({ url, values, files, word, resolve, name: crypto.randomUUID() });
  });
  state.last = work;
  if (state.trouble) again(); // the hand is at work: perhaps it goes now
  else next();
  return work;
}

/** Whether the page shows all that it knows to be stored, and nothing is on its way. */
export function current() { return !state.queue.length && !state.behind && !state.catching; }

/** Resolves when no edit is under way. */
export async function settled() {
  while (state.queue.length > 0) await state.last;
}

/** Send the first of the queue, unless one is on its way or a pause between tries is on. */
function next() {
  paint(unsaved());
  if (state.sending || state.timer || !state.queue.length) return;
  state.sending = true;
  const [{ url, values, files }] = state.queue;
  const source = document.getElementById(files.length ? "uploads" : "edits");
  window.htmx.ajax("POST", url, { source, values, swap: "none", gwEdit: state.queue[0] });
}

/** Try at once what waits. */
export function again() {
  clearTimeout(state.timer);
  state.timer = 0;
  next();
}

/** Give up what waits: the page shows what is stored. What is on its way just now is given up when its answer is no. */
export function putBack() {
  clearTimeout(state.timer);
  Object.assign(state, { timer: 0, trouble: "", tries: 0 });
  if (state.sending) state.queue[0].given = true;
  for (const { resolve } of state.queue.splice(state.sending ? 1 : 0)) resolve(null);
  paint(unsaved());
  if (!state.sending) refresh();
}

/** An edit was answered, or was not. */
function answered(edit, response) {
  state.sending = false;
  const stored = response && !HELD.has(response.status);
  if (!stored && edit.given) {
    state.queue.splice(state.queue.indexOf(edit), 1);
    edit.resolve(null);
    refresh();
    next();
    return;
  }
  if (!stored) {
    state.trouble = response ? reason(response) : "The program does not answer. Is it still running?";
    state.timer = setTimeout(again, PAUSES[Math.min(state.tries, PAUSES.length - 1)]);
    state.tries += 1;
    document.getElementById("remarks").replaceChildren(); // the line at the top says it for as long as it is so
    paint(unsaved());
    return;
  }
  Object.assign(state, { trouble: "", tries: 0 });
  state.queue.splice(state.queue.indexOf(edit), 1);
  if (response.status === ASKS) state.asked = edit;
  const fine = response.status < 400;
  edit.resolve(fine ? response.headers : null);
  if (response.status >= 500) document.dispatchEvent(new CustomEvent("gw:changed")); // what was done is not how things stand
  next();
}

function reason(response) {
  const said = response.headers.get("Gw-Reason");
  return said ? decodeURIComponent(said) : "The program could not store it.";
}

document.addEventListener("htmx:before:request", (event) => {
  const { request, gwEdit } = event.detail.ctx;
  if (gwEdit) Object.assign(request.headers, carried, { "Gw-Gesture": gwEdit.name });
  if (gwEdit?.word) request.headers["Gw-Word"] = gwEdit.word;
  if (state.allowed !== null) request.headers["Gw-Allowed"] = String(state.allowed);
  for (const file of gwEdit?.files ?? []) request.body.append("file", file);
  if (request.method !== "GET" && !request.action.endsWith("/card")) request.headers["Gw-Revision"] = revision();
});

document.addEventListener("htmx:after:request", (event) => {
  const { response } = event.detail.ctx;
  const fresh = response?.headers.get("Gw-Revision");
  if (fresh) {
    if (Number(fresh) > Number(state.revision) + 1) state.behind = true; // others have been at it: their rows are not here yet
    state.revision = fresh;
    document.dispatchEvent(new CustomEvent("gw:changing")); // what comes of it may be asked for before the page has it
  }
});

document.addEventListener("htmx:finally:request", (event) => {
  const { response, request, gwEdit } = event.detail.ctx;
  if (gwEdit) answered(gwEdit, response);
  else if (!response && request.method !== "GET") remark("The program does not answer. Is it still running? Nothing of this was kept.", "error");
  if (response?.status === 409) refresh(true);
  if (response?.status === 208) refresh(); // it had been stored before, only its answer was lost
  if (response?.headers.get("Gw-Revision")) document.dispatchEvent(new CustomEvent("gw:changed"));
});

/** The same gesture once more, with the word that it waited for. */
document.addEventListener("click", ({ target }) => {
  const answer = target.closest?.("#ask [data-word]");
  if (!answer) return;
  const { url, values, word } = state.asked;
  if (answer.dataset.word) post(url, values, [], `${word} ${answer.dataset.word}`.trim()); // it may ask more than once
  else {
    document.getElementById("ask").replaceChildren();
    for (const field of document.querySelectorAll("#card :is(input, select)")) {
      if (field.matches("[type=checkbox], [type=radio]")) field.checked = field.defaultChecked;
      else if (field.matches("select")) [...field.options].forEach((option) => { option.selected = option.defaultSelected; });
      else field.value = field.defaultValue;
    }
    document.dispatchEvent(new CustomEvent("gw:changed")); // what was typed or dragged is not how things stand
  }
});
document.addEventListener("change", ({ target }) => {
  if (!target.matches?.("#ask [data-allowed]")) return;
  const wanted = Number(target.value.replace(",", "."));
  if (!(wanted >= 0)) return;
  state.allowed = wanted;
  post(state.asked.url, state.asked.values);
});

const SHOWN = ["standing", "bones", "parts", "bodymap", "wires", "scenes", "puppets", "walks", "phrases", "cards", "settings"];

/** Show how things stand, after a conflict or what another window did; the remark is left where it is. */
export async function refresh(conflict = false) {
  if (!standing()) return;
  state.catching += 1;
  try { await fetchAnew(conflict); } finally { state.catching -= 1; }
}

async function fetchAnew(conflict) {
  state.behind = false;
  if (conflict) document.getElementById("card")?.replaceChildren(); // what was typed there is not how things stand
  const answer = await fetch(location.href, { headers: { Accept: "text/html" } });
  if (!answer.ok) { state.behind = true; return; } // watching the program tells it, and tries again
  const text = await answer.text();
  if (state.queue.length) { state.behind = true; return; } // a hand was quicker: what came is older than the page
  const page = new DOMParser().parseFromString(text, "text/html");
  for (const id of SHOWN) {
    const fresh = page.getElementById(id), old = document.getElementById(id);
    if (fresh && old) { old.replaceWith(document.importNode(fresh, true)); window.htmx.process(document.getElementById(id)); }
  }
  state.revision = standing()?.dataset.revision ?? state.revision;
  paint(unsaved());
  document.dispatchEvent(new CustomEvent("gw:changed"));
}

/** Another window's work is shown as soon as no hand is at work here. */
export async function caughtUp(fresh) {
  if (state.queue.length || !(state.behind || Number(fresh) > Number(revision()))) return;
  await refresh();
}
