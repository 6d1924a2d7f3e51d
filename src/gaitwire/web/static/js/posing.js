// Posing: the pointer goes to Python, the frame comes back; on release the values become keys.
import { remark } from "./edits.js";
import { Live } from "./live.js";

export class Poser {
  constructor(parts) {
    Object.assign(this, parts);
    this.tool = "turn";
    this.gesture = null;
    this.count = 0;
    this.live = new Live("scene", document.body.dataset.document, (head, frames, message) => this.#answer(head, frames, message));
    const { host } = this.stage;
    host.addEventListener("pointerdown", (event) => this.#down(event));
    host.addEventListener("pointermove", (event) => this.#move(event));
    host.addEventListener("pointerup", () => this.#up());
    host.addEventListener("pointercancel", () => this.#cancel());
    document.addEventListener("keydown", (event) => { if (event.key === "Escape" && this.gesture) { event.preventDefault(); this.#cancel(); } }, { capture: true });
  }

  setTool(name) {
    this.tool = name;
    this.stage.host.dataset.tool = name;
    for (const button of document.querySelectorAll(".tool[data-tool]")) button.setAttribute("aria-pressed", String(button.dataset.tool === name));
  }

  /** What lies under the pointer: a bone's wire, or the bone that carries the part there. */
  #nodeAt(event) {
    const group = event.target.closest?.("[data-bone]");
    if (group) return [group.dataset.instance, group.dataset.bone];
    const part = this.stage.partAt(...this.stage.toStage(event));
    return part ? [part.instance, part.bone] : null;
  }

  #down(event) {
    if (event.button !== 0) return;
    this.stop();
    this.stage.host.focus({ preventScroll: true });
    const node = this.#nodeAt(event);
    const add = event.shiftKey;
    if (!node) { if (!add) this.choose([]); return; }
    const already = this.nodes().some(([i, o]) => i === node[0] && o === node[1]);
    if (!already || add) this.choose([node], add);
    const others = this.nodes().filter(([i, o]) => i !== node[0] || o !== node[1]);
    const item = this.wires.byId?.get(node.join(":"));
    if (item?.node.locked) { remark(`“${item.node.name}” is locked. Unlock it on the Bench first.`, "error"); return; }
    this.count += 1;
    this.stage.host.setPointerCapture(event.pointerId);
    this.gesture = { nodes: [node, ...others], from: this.stage.toStage(event), frame: this.frame(), began: this.count, values: null, moved: false, screen: [event.clientX, event.clientY] };
  }

  #move(event) {
    const g = this.gesture;
    if (!g) return;
    if (!g.moved && Math.hypot(event.clientX - g.screen[0], event.clientY - g.screen[1]) < 3) return;
    g.moved = true;
    const [x, y] = this.stage.toStage(event);
    const step = event.shiftKey && this.tool === "turn" ? 5 : 0;
    this.live.send({ kind: "pose", gesture: this.tool, x, y, from_x: g.from[0], from_y: g.from[1], frame: g.frame, nodes: g.nodes, began: g.began, step });
  }

  #answer(head, frames, message) {
    const g = this.gesture;
    if (head.error) { remark(head.error, "error"); return; }
    if (!g || g.began !== message.began) return;
    g.values = head.values;
    this.stage.show(frames, 0);
  }

  async #up() {
    const g = this.gesture;
    if (!g) return;
    await this.live.settled();
    this.gesture = null;
    if (g.values) await this.commit(g.frame, g.values);
  }

  #cancel() { this.gesture = null; this.restore(); }
}
