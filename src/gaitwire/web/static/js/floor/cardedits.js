// What is typed, ticked and picked on the Floor's card becomes an edit.
import { post } from "../shared/edits.js";

export const instanceOf = (element) => element.closest("[data-instance]").dataset.instance;

const numeric = (input) => (input.type === "checkbox" ? String(Number(input.checked)) : input.value);

export function installCard({ base, player, nodes, posing, blocks, host }) {
  const card = document.getElementById("card");

  const typed = (owners, field, value) => post(`${base}/typed`, {
    frame: player.frame, nodes: JSON.stringify(owners), field, value, blocking: String(blocks()),
  });

  /** Key what a part shows, or where it lies in the order. */
  function keyPart(element, field, value) {
    typed([[nodes()[0][0], element.closest("[data-part-of]").dataset.partOf]], field, value);
  }

  const SETS = {
    part: (input, value) => value && keyPart(input, input.name, numeric(input)),
    value: (input, value) => value && typed(nodes(), input.name, value),
    dial: (input, value) => value && typed([[input.closest("[data-dial-of]").dataset.dialOf, input.closest("[data-control]").dataset.control]], input.name, value),
    shows: (input, value) => value && typed(JSON.parse(input.closest("[data-nodes]").dataset.nodes), input.name, numeric(input)),
    pose: (input, value) => posing.set(input.name, value),
    scene: (input, value) => post(`${base}/set`, { field: input.name, value }),
    instance: (input, value) => post(`${base}/puppets/${instanceOf(input)}/set`, { field: input.name, value }),
  };

  card.addEventListener("change", ({ target: input }) => {
    const value = input.type === "checkbox" ? String(input.checked) : input.value;
    SETS[input.dataset.set]?.(input, value);
  });

  // Enter sets the value, also one that is there already and has no key yet; then the keys are the stage's again.
  card.addEventListener("keydown", (event) => {
    const { target: input } = event;
    if (event.key !== "Enter" || !input.matches("input:not([type=checkbox])")) return;
    if (input.dataset.set === "value" && input.value === input.defaultValue) input.dispatchEvent(new Event("change", { bubbles: true }));
    input.blur();
    host.focus({ preventScroll: true });
  });

  card.addEventListener("click", (event) => {
    const drawing = event.target.closest("[data-shows]");
    if (drawing) keyPart(drawing, "drawing", drawing.dataset.shows);
    const led = event.target.closest("[data-led]");
    if (led) keyPart(led, led.dataset.led, led.dataset.value);
  });
}
