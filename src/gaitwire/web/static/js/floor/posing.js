// Posing: the pointer goes to Python, the frame comes back; on release the values become keys.
import { remark } from "../shared/edits.js";
import { LiveLine } from "../live/line.js";
import { svg } from "../stage/stage.js";

export class Poser {
  blocking; box; braces; choose; commit; frame; hangers; limbs; looking; nodes; parentOf; restore; rider; seek; stage; stop; wires;
  constructor(parts) {
    Object.assign(this, parts);
    this.tool = "turn";
    this.gesture = null;
    this.count = 0;
    this.said = svg("text", { class: "said", display: "none", "aria-hidden": "true" }, this.stage.overlay);
    this.live = new LiveLine(this.stage, "scene", document.body.dataset.document, (head, frames, message) => this.#answer(head, frames, message));
    const { host } = this.stage;
    host.addEventListener("pointerdown", (event) => this.#down(event));
    host.addEventListener("pointermove", (event) => this.#move(event));
    host.addEventListener("dblclick", (event) => this.#beyond(event));
    host.addEventListener("pointerup", () => this.#up());
    host.addEventListener("pointercancel", () => this.#cancel());
    document.addEventListener("keydown", (event) => { if (event.key === "Escape" && this.gesture) { event.preventDefault(); this.#cancel(); } }, { capture: true });
  }

  setTool(name) {
    this.tool = name;
    this.stage.host.dataset.tool = name;
    this.stage.redraw();
    document.getElementById("pull-more").hidden = name !== "pull";
    for (const button of document.querySelectorAll(".tool[data-tool]")) button.setAttribute("aria-pressed", String(button.dataset.tool === name));
  }

  /** What lies under the pointer: a bone's wire, or the bone that carries the part there. */
  #under(event) {
    const target = event.target.closest?.("[data-grip]"), group = target?.closest("[data-bone]");
    if (group) {
      const found = { node: [group.dataset.instance, group.dataset.bone], grip: target.dataset.grip, way: target.dataset.way };
      return group.dataset.frame === undefined ? found : { ...found, frame: Number(group.dataset.frame) };
    }
    const part = this.stage.partAt(...this.stage.toStage(event));
    return part ? { node: [part.instance, part.bone], grip: "part" } : null;
  }

  #item(node) { return this.wires.byId?.get(node.join(":")); }

  /** The limb that what was pressed is the end or a joint of, and which; null for none. */
  #pulled(/** @type {any} */ { node: [instance, owner], grip }) {
    const found = this.limbs().filter((limb) => limb.instance === instance).map((limb) => {
      const last = limb.joints.length - 1;
      if (limb.whole) return { limb, joint: owner === limb.tip && grip !== "pivot" ? last : limb.joints.slice(0, last).indexOf(owner) };
      return { limb, joint: limb.joints.indexOf(owner) };
    });
    return found.find(({ joint }) => joint > 0) ?? null;
  }

  /** What is chosen and has a place on the stage. */
  #posable() { return this.nodes().filter((node) => this.#item(node) || node[0] === node[1]); }

  /** The chosen bone that what was pressed hangs from, at any height; or null. */
  #chosenAbove(/** @type {any[]} */ [instance, owner]) {
    const chosen = new Set(this.nodes().filter(([i]) => i === instance).map(([, o]) => o));
    for (let at = owner; at; at = this.parentOf(instance, at)) if (chosen.has(at)) return [instance, at];
    return chosen.has(instance) ? [instance, instance] : null;
  }

  /** A joint at the tip of the bone above is pulled by it: that one turns or stretches. Shifting takes the joint itself. */
  #puller({ node, grip }) {
    const item = this.#item(node);
    if (grip !== "pivot" || this.tool === "shift" || !(item?.node.length > 0) || !item.node.parent) return node;
    const above = [node[0], item.node.parent], { at, end } = this.#item(above) ?? {};
    const near = ([x, y]) => Math.hypot(x - item.at[0], y - item.at[1]);
    return end && near(end) < near(at) ? above : node;
  }

  #down(event) {
    if (event.button !== 0) return;
    if (this.looking()) { remark("This is seen through the lens. Press Shift L to work on the stage.", "error"); return; }
    this.stop();
    this.stage.host.focus({ preventScroll: true });
    const boxed = this.box.grab(event.target);
    if (boxed) { this.#startBox(event, boxed); return; }
    const under = this.#under(event);
    if (under?.frame !== undefined) this.seek(under.frame); // a bead of a trail: it is dragged on its own frame
    this.pressed = under;
    const add = event.shiftKey;
    if (!under) { this.#startMarquee(event, add); return; }
    if (event.altKey && under.grip !== "pin") { this.choose(this.hangers([under.node]), add); return; } // with all that hangs from it
    // What hangs from a chosen bone is a handle of that bone; only a click goes on to choose it itself.
    const above = add ? null : this.#chosenAbove(under.node);
    if (!above) this.choose([under.node], add);
    this.count += 1;
    this.stage.host.setPointerCapture(event.pointerId);
    const pull = this.tool === "pull" && !under.way ? this.#pulled(under) : null;
    // Of no limb: the body is pulled, and all hands and feet stay.
    const body = this.tool === "pull" && !pull && !under.way && under.grip !== "pin";
    if (body && !this.braces.tips(under.node[0]).length) { remark("This puppet has no limbs to stand on. They are made on the Bench.", "error"); this.stage.host.releasePointerCapture(event.pointerId); return; }
    this.gesture = {
      pull, body, under, above, from: this.stage.toStage(event), frame: this.frame(), began: this.count, values: null, screen: [event.clientX, event.clientY],
    };
  }

  /** A press beside everything begins a box: the bones whose joints lie in it are chosen. */
  #startMarquee(event, add) {
    const frame = svg("rect", { class: "catchbox" }, this.stage.overlay);
    this.stage.host.setPointerCapture(event.pointerId);
    this.gesture = { marquee: frame, add, screen: [event.clientX, event.clientY] };
  }

  #sizeMarquee(event) {
    const { marquee, screen: [x, y] } = this.gesture, host = this.stage.host.getBoundingClientRect();
    const left = Math.min(x, event.clientX), top = Math.min(y, event.clientY);
    Object.entries({ x: left - host.left, y: top - host.top, width: Math.abs(event.clientX - x), height: Math.abs(event.clientY - y) })
      .forEach(([name, value]) => marquee.setAttribute(name, value));
  }

  #endMarquee(/** @type {any} */ { marquee, add }) {
    const [x, y, w, h] = ["x", "y", "width", "height"].map((name) => Number(marquee.getAttribute(name) ?? 0));
    marquee.remove();
    if (w < 3 && h < 3) { if (!add) this.choose([]); return; }
    const inside = ({ node, at }) => {
      if (!at || node.locked) return false;
      const [px, py] = this.stage.toScreen(...at);
      return px >= x && px <= x + w && py >= y && py <= y + h;
    };
    this.choose(this.wires.items.filter(inside).map(({ node }) => [node.instance, node.id]), add);
  }

  /** Two clicks: all beyond a joint, without the bone itself. */
  #beyond(event) {
    const under = this.pressed; // the event itself is told to have hit the stage, which holds the pointer
    if (!under || under.grip === "pin") return;
    const [, ...rest] = this.hangers([under.node]);
    if (rest.length) this.choose(rest, event.shiftKey);
    else remark("Nothing hangs from this bone.");
  }

  #startBox(event, { kind, about }) {
    this.count += 1;
    this.stage.host.setPointerCapture(event.pointerId);
    this.gesture = { boxed: kind, about, nodes: this.#posable(), from: this.stage.toStage(event), frame: this.frame(), began: this.count, values: null };
  }

  #moveBox(event) {
    const g = this.gesture, [x, y] = this.stage.toStage(event);
    if (g.boxed === "about") { this.box.place(x, y); return; }
    this.live.send({
      kind: "together", gesture: g.boxed, x, y, from_x: g.from[0], from_y: g.from[1], about_x: g.about[0], about_y: g.about[1],
      frame: g.frame, nodes: g.nodes, began: g.began, blocking: this.blocking(), free: event.altKey, braces: this.braces.sent(g.nodes[0]?.[0]),
    });
  }

  /** The press has become a drag: which bones move, and from where. */
  #begin(event) {
    const g = this.gesture, { under, above } = g;
    if (g.pull) { g.nodes = g.pull.limb.joints.map((id) => [under.node[0], id]); this.wires.keepOnly(g.nodes); return; }
    if (g.body) { g.nodes = [this.#rootOf(under.node)]; return; }
    const mover = above && String(above) !== String(under.node) ? above : this.#puller(under);
    const same = String(mover) === String(under.node);
    // A bone held at its own joint has no lever yet: the turn is counted from where the pointer has got to.
    const lever = under.grip === "pivot" && same && (this.tool === "turn" || this.tool === "curl") ? 16 : 3;
    if (Math.hypot(event.clientX - g.screen[0], event.clientY - g.screen[1]) < lever) return;
    const item = this.#item(mover);
    if (item?.node.locked) {
      remark(`“${item.node.name}” is locked. Unlock it first.`, "error");
      this.gesture = null;
      return;
    }
    if (!this.nodes().some((node) => String(node) === String(mover))) this.choose([mover]);
    if (lever > 3) g.from = this.stage.toStage(event);
    g.pin = under.grip === "pin" && !event.altKey; // a pin goes where it is dragged; with Alt it turns
    g.nodes = [mover, ...this.#posable().filter((node) => String(node) !== String(mover))];
    this.wires.keepOnly(g.nodes);
  }

  /** The bone that carries all the others above a node; the puppet as a whole for its own seat. */
  #rootOf(/** @type {any[]} */ [instance, owner]) {
    let at = owner;
    for (let above = at; above; above = this.parentOf(instance, above)) at = above;
    return [instance, at];
  }

  #move(event) {
    const g = this.gesture;
    if (!g) return;
    this.pointer = event;
    if (g.marquee) { this.#sizeMarquee(event); return; }
    if (g.boxed) { this.#moveBox(event); return; }
    if (!g.nodes) this.#begin(event);
    if (!g.nodes || g.ride) return; // while riding, time asks where the pointer is
    if (this.rider?.on && !g.pull && !g.body) { this.#ride(g); return; }
    const [x, y] = this.stage.toStage(event);
    const braces = this.braces.sent(g.nodes[0][0], g.body), free = event.altKey;
    if (g.pull) {
      this.live.send({ kind: "reach", braces, free, limb: g.pull.limb.id, joint: g.pull.joint, stays: 0, x, y, frame: g.frame, nodes: g.nodes, began: g.began, blocking: this.blocking() });
      return;
    }
    const step = event.shiftKey && this.tool === "turn" ? 5 : 0;
    this.live.send({ kind: "pose", gesture: this.#way(g), x, y, from_x: g.from[0], from_y: g.from[1], frame: g.frame, nodes: g.nodes, began: g.began, step, free, braces, blocking: this.blocking() });
  }

  #way(g) { return g.body ? "shift" : g.under.way ?? (g.pin || this.tool === "box" ? "shift" : this.tool); }

  /** Each frame that time comes to is taken hold of anew, and moved as far as the pointer has gone. */
  #ride(g) {
    this.rider.begin(g, (frame) => {
      const [x, y] = this.stage.toStage(this.pointer);
      this.count += 1;
      g.began = this.count;
      this.live.send({ kind: "pose", gesture: this.#way(g), x, y, from_x: g.from[0], from_y: g.from[1], frame, nodes: g.nodes, began: g.began });
      return [x, y];
    }, () => this.#up());
  }

  #answer(head, frames, message) {
    const g = this.gesture;
    if (head.error) { remark(head.error, "error"); return; }
    if (message.kind === "footprint" || message.kind === "walk") { this.stage.follow(frames); return; }
    if (!g || g.began !== message.began) return;
    g.values = head.values;
    this.#say(head.said);
    this.stage.follow(frames);
  }

  /** A few words beside the pointer: how long, how far turned. */
  #say(text) {
    this.said.setAttribute("display", text ? "inline" : "none");
    if (!text) return;
    const host = this.stage.host.getBoundingClientRect();
    this.said.setAttribute("x", this.pointer.clientX - host.left + 16);
    this.said.setAttribute("y", this.pointer.clientY - host.top - 10);
    this.said.textContent = text;
  }

  async #up() {
    const g = this.gesture;
    if (!g) return;
    if (g.marquee) { this.gesture = null; this.#endMarquee(g); return; }
    if (g.ride?.done) return;
    if (g.ride) g.ride.done = true;
    await this.live.settled();
    this.#end();
    if (g.ride) { await this.rider.end(g, this.#way(g)); return; }
    if (!g.nodes && g.above && String(g.above) !== String(g.under.node)) this.choose([g.under.node]);
    if (!g.values) return;
    await this.commit(g.frame, g.values);
    this.#follow(g);
  }

  /** Where another bone carries the body, it may be the joint beyond what was dragged that turned: that wire is chosen. */
  #follow(/** @type {any} */ { nodes: [node, ...others], values }) {
    const bearer = this.braces.bearer(node[0]), [[instance, owner]] = values;
    const moved = values.every(([, one]) => one === owner) && owner !== node[1] ? this.#item([instance, owner]) : null;
    if (!bearer || others.length || !moved) return;
    this.choose([[instance, owner]]);
    remark(`${bearer.name} carries the body: this was ${moved.node.name} turned, whose wire is chosen now.`);
  }

  #end() {
    this.gesture?.marquee?.remove();
    this.gesture = null;
    this.#say("");
    this.wires.keepOnly(null);
  }

  #cancel() {
    if (this.gesture?.ride) this.gesture.ride.done = true;
    this.#end();
    this.live.drop();
    this.restore();
  }
}
