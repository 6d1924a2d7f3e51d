// The Shelf: drop art anywhere on the page.
import { remark } from "./edits.js";

function send(files) {
  const form = document.getElementById("art-form");
  const input = document.getElementById("art-file");
  const [first, ...rest] = files;
  if (!first) return;
  const carrier = new DataTransfer();
  carrier.items.add(first);
  input.files = carrier.files;
  document.addEventListener("htmx:finally:request", () => send(rest), { once: true });
  form.requestSubmit();
}

document.addEventListener("change", (event) => {
  if (event.target.id === "art-file" && event.target.files.length) event.target.form.requestSubmit();
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
