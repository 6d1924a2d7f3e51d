// The panels beside the stage: Python lists and draws them, here they are opened and kept up to date.
import { ask } from "../shared/asking.js";
import { post } from "../shared/edits.js";

class Panel {
  asked; button; floor; follows; key; name;
  /** `floor`: what panels may ask of the page, and do to it. */
  constructor(button, floor) {
    const { panel, key, follows, scripted } = button.dataset;
    Object.assign(this, { floor, button, name: panel, key, follows: new Set(follows.split(" ")), open: false, asked: 0, state: "" });
    this.host = document.getElementById(`panel-${panel}`);
    this.ready = scripted !== undefined ? import(`./panels/${panel}.js`).then((own) => { this.own = own.install(this, floor); }) : Promise.resolve();
    button.addEventListener("click", () => this.toggle());
    this.host.addEventListener("click", ({ target }) => this.#click(target));
  }

  async toggle() {
    this.open = !this.open;
    this.button.setAttribute("aria-pressed", String(this.open));
    this.state = "";
    if (!this.open) this.host.hidden = true;
    await this.ready;
    if (!this.open) this.own?.closed?.();
    await this.renew();
  }

  /** What it follows has changed: drawn anew, unless something of it is in hand. */
  async renew() {
    const { base, player, nodes, subject } = this.floor;
    if (!this.open || !player.all) return;
    const only = this.follows.size === 1 && this.follows.has("scene");
    if (only && this.state === String(player.all.stamp)) return;
    this.state = String(player.all.stamp);
    this.asked += 1;
    const ticket = this.asked, [first, last] = player.range ?? [0, null];
    const about = { nodes: JSON.stringify(nodes()), frame: player.frame, subject: subject()?.instance ?? "", first };
    const answer = await ask(`${base}/panels/${this.name}`, { method: "POST", body: new URLSearchParams(last === null ? about : { ...about, last: last + 1 }) });
    const text = await answer.text();
    if (ticket !== this.asked || !this.open || this.own?.busy?.()) return;
    this.host.hidden = !text;
    this.host.replaceChildren(...(text ? [new DOMParser().parseFromString(text, "text/html").body.firstElementChild] : []));
    this.own?.drawn?.();
  }

  #click(target) {
    const remedy = target.closest("[data-remedy]"), row = target.closest("[data-choose]");
    if (remedy) { post(remedy.dataset.remedy); return; }
    if (!row) return;
    if (row.dataset.frame) this.floor.seek(Number(row.dataset.frame));
    this.floor.choose(JSON.parse(row.dataset.choose));
  }
}

/** `keys`: what opens them; `tell` says that what some of them follow has changed: "scene", "chosen" or "frame". */
export function installPanels(floor) {
  const panels = [...document.querySelectorAll("[data-panel]")].map((button) => new Panel(button, floor));
  return {
    keys: Object.fromEntries(panels.map((panel) => [panel.key, () => panel.toggle()])),
    tell(what) { for (const panel of panels) if (panel.follows.has(what)) panel.renew(); },
    /** The playhead has moved, perhaps while playing. */
    now() { for (const panel of panels) if (panel.open) panel.own?.now?.(); },
  };
}
