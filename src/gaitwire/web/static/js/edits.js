// Edits: one queue to the server, each carrying the revision the page was looking at.
// The server answers with the fragments that changed; htmx puts them in their places.

const ASKS = 428; // the gesture waits for a word: it would move pictures of scenes
const state = { revision: null, waiting: 0, last: null, asked: null, allowed: null };

function standing() { return document.getElementById("standing"); }

export function revision() {
  if (state.revision === null) state.revision = standing()?.dataset.revision ?? "";
  return state.revision;
}

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
  state.waiting += 1;
  standing()?.classList.add("busy");
  const work = new Promise((resolve) => {
    const source = document.getElementById(files.length ? "uploads" : "edits");
    const done = (event) => {
      const ctx = event.detail.ctx;
      if (ctx.gwTicket !== ticket) return;
      document.removeEventListener("htmx:finally:request", done);
      state.waiting -= 1;
      if (state.waiting === 0) standing()?.classList.remove("busy");
      const fine = ctx.response && ctx.response.status < 400;
      if (ctx.response?.status === ASKS) state.asked = { url, values };
      resolve(fine ? ctx.response.headers : null);
    };
    const ticket = Symbol(url);
    document.addEventListener("htmx:finally:request", done);
    window.htmx.ajax("POST", url, { source, values, swap: "none", gwTicket: ticket, gwFiles: files, gwWord: word });
  });
  state.last = work;
  return work;
}

/** Resolves when no edit is under way. */
export async function settled() {
  while (state.waiting > 0) await state.last;
}

document.addEventListener("htmx:before:request", (event) => {
  const { request, gwFiles, gwWord } = event.detail.ctx;
  if (gwWord) request.headers["Gw-Word"] = gwWord;
  if (state.allowed !== null) request.headers["Gw-Allowed"] = String(state.allowed);
  for (const file of gwFiles ?? []) request.body.append("file", file);
  if (request.method !== "GET" && !request.action.endsWith("/card")) request.headers["Gw-Revision"] = revision();
});

document.addEventListener("htmx:after:request", (event) => {
  const { response } = event.detail.ctx;
  const fresh = response?.headers.get("Gw-Revision");
  if (fresh) {
    state.revision = fresh;
    document.dispatchEvent(new CustomEvent("gw:changing")); // what comes of it may be asked for before the page has it
  }
});

document.addEventListener("htmx:finally:request", (event) => {
  const { response, request } = event.detail.ctx;
  if (!response) {
    if (request.method !== "GET") remark("The program does not answer. Is it still running? Nothing of this gesture was kept.", "error");
    return;
  }
  if (response.status === 409) reload();
  if (response.headers.get("Gw-Revision")) document.dispatchEvent(new CustomEvent("gw:changed"));
});

/** The same gesture once more, with the word that it waited for. */
document.addEventListener("click", ({ target }) => {
  const answer = target.closest?.("#ask [data-word]");
  if (!answer) return;
  const { url, values } = state.asked;
  if (answer.dataset.word) post(url, values, [], answer.dataset.word);
  else {
    document.getElementById("ask").replaceChildren();
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

/** After a conflict: show how things stand, and leave the remark where it is. */
function reload() {
  if (!standing()) return;
  document.getElementById("card")?.replaceChildren(); // what was typed there is not how things stand
  fetch(location.href, { headers: { Accept: "text/html" } }).then((r) => r.text()).then((text) => {
    const page = new DOMParser().parseFromString(text, "text/html");
    for (const id of ["standing", "bones", "parts", "bodymap", "wires", "scenes", "puppets", "walks", "phrases", "cards", "settings"]) {
      const next = page.getElementById(id);
      const old = document.getElementById(id);
      if (next && old) { old.replaceWith(document.importNode(next, true)); window.htmx.process(document.getElementById(id)); }
    }
    state.revision = standing()?.dataset.revision ?? state.revision;
    document.dispatchEvent(new CustomEvent("gw:changed"));
  });
}
