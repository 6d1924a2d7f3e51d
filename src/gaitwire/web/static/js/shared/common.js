// What every page has: undo and redo, the sheet of keys, remarks that go by themselves.
import { post, remark } from "./edits.js";

document.addEventListener("alpine:init", () => {
  window.Alpine.data("help", () => ({
    open: false,
    toggle() { this.open = !this.open; },
    close() { this.open = false; },
    lamp() {
      const off = document.documentElement.dataset.lamp !== "off";
      if (off) document.documentElement.dataset.lamp = "off";
      else delete document.documentElement.dataset.lamp;
      document.dispatchEvent(new CustomEvent("gw:lamp"));
      try { localStorage.setItem("lamp", off ? "off" : "on"); } catch { /* then only for this page */ }
    },
  }));
});

export function typing(event) {
  return event.target.closest?.("input:not([type=checkbox]):not([type=range]), select, textarea") !== null
    && event.target !== document.body;
}

function step(direction) {
  const button = document.getElementById(direction);
  const url = document.getElementById("standing")?.dataset[direction];
  if (!url) return;
  if (button?.disabled) remark(`There is nothing to ${direction}.`);
  else post(url);
}

document.addEventListener("click", (event) => {
  const id = event.target.closest?.("#undo, #redo")?.id;
  if (id) step(id);
  else if (event.target.closest?.("[data-step-back]")) step("undo");
  const act = event.target.closest?.("[data-remark-act]");
  if (act) post(act.dataset.remarkAct);
});

document.addEventListener("keydown", (event) => {
  if (event.defaultPrevented) return;
  const command = event.ctrlKey || event.metaKey;
  if (command && event.key.toLowerCase() === "z" && !typing(event)) {
    event.preventDefault();
    step(event.shiftKey ? "redo" : "undo");
  } else if (command && event.key.toLowerCase() === "y" && !typing(event)) {
    event.preventDefault();
    step("redo");
  } else if (event.key === "?" && !typing(event)) {
    document.querySelector(".topright [aria-expanded]")?.click();
  }
});

/** What somebody who mends the program needs to know; nothing of what was drawn. */
async function details(number) {
  const health = await fetch("/health").then((answer) => answer.json()).catch(() => ({ answer: "none" }));
  const seen = { number: number || "none", when: new Date().toISOString(), page: document.body.dataset.base ?? location.pathname, browser: navigator.userAgent, window: `${innerWidth} x ${innerHeight}` };
  return Object.entries({ ...seen, ...health }).map(([name, value]) => `${name}: ${typeof value === "object" ? JSON.stringify(value) : value}`).join("\n");
}

document.addEventListener("click", async ({ target }) => {
  const button = target.closest?.("[data-report]");
  if (!button) return;
  await navigator.clipboard.writeText(await details(button.dataset.report));
  button.textContent = "copied";
});

let fading = 0;
new MutationObserver(() => {
  clearTimeout(fading);
  const place = document.getElementById("remarks");
  if (place.childElementCount) fading = setTimeout(() => place.replaceChildren(), place.querySelector(".number") ? 60000 : place.querySelector(".error, button") ? 9000 : 4000);
}).observe(document.getElementById("remarks"), { childList: true });

/** Show only the phrases that have every word that is typed in their name or tags. */
export function findPhrases(text, rows) {
  const words = text.toLowerCase().split(/[\s,]+/).filter(Boolean);
  let shown = 0;
  for (const row of document.querySelectorAll(rows)) {
    row.hidden = !words.every((word) => row.dataset.words.includes(word));
    shown += row.hidden ? 0 : 1;
  }
  document.getElementById("phrase-none").hidden = shown > 0;
}
