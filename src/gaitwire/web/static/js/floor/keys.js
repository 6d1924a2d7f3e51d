// The keyboard of the Floor: one table from keys to what they do.
import { typing } from "../shared/common.js";

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** Names that an event answers to, the most telling first: with its modifiers, then the bare key. */
function namesOf(event) {
  const modifiers = `${event.shiftKey ? "Shift+" : ""}${event.altKey ? "Alt+" : ""}`;
  const key = event.key === " " ? "Space" : event.key, bare = key.length === 1 ? key.toLowerCase() : key;
  const named = modifiers ? [`${modifiers}${key}`, `${modifiers}${event.code}`] : [];
  return event.altKey ? named : [...named, bare];
}

/** `keys`: names as "Shift+P", "Alt+BracketLeft" or bare keys. Arrows on the stage nudge, by ten with Shift. */
export function installKeys({ ready, host, nudge }, keys) {
  document.addEventListener("keydown", (event) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.defaultPrevented || !ready()) return;
    const arrow = !event.altKey && ARROWS[event.key];
    if (arrow && event.target === host) {
      event.preventDefault();
      nudge(arrow, event.shiftKey ? 10 : 1);
      return;
    }
    const onButton = event.target.closest?.("button, a, [role=button]") && (event.key === " " || event.key === "Enter");
    const name = namesOf(event).find((one) => keys[one]);
    if (name && !onButton) { event.preventDefault(); keys[name](); }
  });
}
