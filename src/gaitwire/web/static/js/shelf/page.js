// The Shelf: drop art anywhere on the page; find, name and bring in phrases.
import { findPhrases } from "../shared/common.js";
import { post, remark } from "../shared/edits.js";

const SUFFIXES = document.getElementById("art-file").accept.split(",");
const PICTURES = [".png", ".webp"];
const ends = (file, suffixes) => suffixes.some((suffix) => file.name.toLowerCase().endsWith(suffix));

/** Told before anything is sent: a huge file would only be refused after minutes. */
function fits(files) {
  const most = Number(document.getElementById("art-form").dataset.most);
  const total = files.reduce((sum, file) => sum + file.size, 0);
  if (total <= most) return true;
  const what = files.length === 1 ? `“${files[0].name}” is` : "These files are";
  remark(`${what} larger than ${Math.round(most / 1e6)} MB. Make the pictures smaller.`, "error");
  document.getElementById("art-form").reset();
  return false;
}

/** What becomes one puppet: all pictures together, every other file alone. */
function bundles(files) {
  const pictures = files.filter((file) => ends(file, PICTURES));
  const others = files.filter((file) => !pictures.includes(file) && ends(file, SUFFIXES)).map((file) => [file]);
  const known = pictures.length + others.length;
  if (known < files.length) remark(known ? "Some files are of no kind that can come in." : "Layered SVG, OpenRaster, PNG, WebP, a zip of those or a packed puppet can come in.", "error");
  return pictures.length ? [pictures, ...others] : others;
}

function send(/** @type {any[]} */ [first, ...rest]) {
  if (!first || !fits(first)) return;
  const carrier = new DataTransfer();
  for (const file of first) carrier.items.add(file);
  const input = document.getElementById("art-file");
  input.files = carrier.files;
  document.addEventListener("htmx:finally:request", () => send(rest), { once: true });
  document.getElementById("art-form").requestSubmit();
}

/** All files of what was dropped, folders opened; a file in a folder goes by its path. */
async function dropped(items) {
  const found = [];
  async function walk(entry, path) {
    if (entry.isFile) {
      const file = await new Promise((resolve, reject) => entry.file(resolve, reject));
      found.push(path ? new File([file], `${path}/${file.name}`, { type: file.type }) : file);
      return;
    }
    const reader = entry.createReader();
    for (;;) { // a folder is read a hundred entries at a time
      const batch = await new Promise((resolve, reject) => reader.readEntries(resolve, reject));
      if (!batch.length) return;
      for (const inner of batch) await walk(inner, path ? `${path}/${entry.name}` : entry.name);
    }
  }
  for (const entry of items.map((item) => item.webkitGetAsEntry?.()).filter(Boolean)) await walk(entry, "");
  return found;
}

document.addEventListener("input", ({ target }) => { if (target.id === "phrase-find") findPhrases(target.value, ".phraserow"); });
document.addEventListener("change", ({ target: input }) => {
  if (input.dataset.phrase) post(`/shelf/phrases/${input.dataset.phrase}/set`, { field: input.name, value: input.value });
  if (input.id === "phrase-file" && input.files.length) post("/shelf/phrases/bring", {}, [...input.files]);
});
document.addEventListener("change", (event) => {
  if (event.target.id !== "art-file" || !event.target.files.length) return;
  send(bundles([...event.target.files]));
});
document.addEventListener("htmx:before:request", (event) => {
  const busy = event.target.querySelector?.(".busy");
  if (busy) busy.hidden = false;
});
document.addEventListener("htmx:finally:request", () => {
  document.getElementById("art-form")?.reset();
  for (const busy of document.querySelectorAll(".busy")) busy.hidden = true;
});

for (const kind of ["dragenter", "dragover"]) {
  document.addEventListener(kind, (event) => {
    if (![...event.dataTransfer.types].includes("Files")) return;
    event.preventDefault();
    document.getElementById("drop")?.classList.add("over");
  });
}
document.addEventListener("dragleave", (event) => {
  if (!event.relatedTarget) document.getElementById("drop")?.classList.remove("over");
});
document.addEventListener("drop", async (event) => {
  event.preventDefault();
  document.getElementById("drop")?.classList.remove("over");
  const files = [...event.dataTransfer.files], items = [...event.dataTransfer.items];
  const all = await dropped(items);
  send(bundles(all.length ? all : files));
});

document.addEventListener("click", ({ target }) => {
  const button = target.closest?.("[data-take-off]");
  if (button) post(button.dataset.takeOff);
});
