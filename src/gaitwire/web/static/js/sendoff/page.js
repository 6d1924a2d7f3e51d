// The Send-off: the preview follows the settings, and is always the file itself.

const form = document.getElementById("settings");
let waiting = 0;

function again(delay) {
  clearTimeout(waiting);
  waiting = setTimeout(() => form.requestSubmit(), delay);
}

function pixels() {
  const place = document.getElementById("pixels");
  const scale = Number(form.elements.scale.value.replace(",", ".")) / 100;
  if (scale > 0) place.textContent = `${Math.round(place.dataset.width * scale)} × ${Math.round(place.dataset.height * scale)} px`;
}

form.addEventListener("input", (event) => {
  if (event.target.name === "loops") form.querySelector('[name=endless][value="false"]').checked = true;
});
function ownSettings() {
  const kind = form.elements.kind.value;
  for (const row of form.querySelectorAll("[data-of]")) row.hidden = !row.dataset.of.split(" ").includes(kind);
}

ownSettings();
form.addEventListener("change", () => { pixels(); ownSettings(); again(150); });
form.addEventListener("submit", () => clearTimeout(waiting)); // Enter, or the button, is as good as waiting
document.addEventListener("DOMContentLoaded", () => again(0));
if (document.readyState !== "loading") again(50);

document.addEventListener("htmx:before:request", (event) => {
  // New settings: what was being made for the old ones is given up.
  const job = document.querySelector(".making[data-job]");
  if (event.target === form && job) fetch(`${location.pathname}/jobs/${job.dataset.job}/cancel`, { method: "POST" });
});

document.addEventListener("input", (event) => {
  if (event.target.id !== "scrub") return;
  const picture = document.getElementById("sequence");
  picture.src = `${picture.dataset.base}/${event.target.value}.png`;
});
