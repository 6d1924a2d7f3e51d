// The Shelf: drop art anywhere on the page.
import { remark } from "./edits.js";

/** Told before anything is sent: a huge file would only be refused after minutes. */
function fits(file) {
  const most = Number(document.getElementById("art-form").dataset.most);
  if (file.size <= most) return true;
  remark(`“${file.name}” is larger than ${Math.round(most / 1e6)} MB. Make its pictures smaller.`, "error");
  document.getElementById("art-form").reset();
  return false;
}

function send(files) {
  const form = document.getElementById("art-form");
  const input = document.getElementById("art-file");
  const [first, ...rest] = files;
  if (!first || !fits(first)) return;
  const carrier = new DataTransfer();
  carrier.items.add(first);
  input.files = carrier.files;
  document.addEventListener("htmx:finally:request", () => send(rest), { once: true });
  form.requestSubmit();
}

document.addEventListener("change", (event) => {
  if (event.target.id === "art-file" && event.target.files.length && fits(event.target.files[0])) event.target.form.requestSubmit();
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
document.addEventListener("drop", (event) => {
  event.preventDefault();
  document.getElementById("drop")?.classList.remove("over");
  const files = [...event.dataTransfer.files];
  const good = files.filter((file) => /\.svg$/i.test(file.name) || file.type === "image/svg+xml");
  if (good.length < files.length) remark("Only layered SVG files can come in so far.", "error");
  send(good);
});
