// The timeline: beads chosen, boxed, dragged; wires folded; zoom, scroll and the playhead.
import { Picked } from "./picked.js";

const scroller = () => document.getElementById("tl-scroll");
const section = () => document.getElementById("wires");
const LEFT = 172, PAD = 16;

export class Timeline {
  scroller; onMarker; onMove; onSeek; onSpan; onZoom;
  constructor({ onSeek, onChoose, onMove, onZoom, onSpan, onMarker }) {
    Object.assign(this, { onSeek, onMove, onZoom, onSpan, onMarker });
    this.span_ = null;
    this.picked = new Picked(onChoose);
    this.folds = new Map();
    this.ppf = 0;
    this.frame = 0;
    this.drag = null;
    document.addEventListener("pointerdown", (event) => this.#down(event));
    document.addEventListener("pointermove", (event) => this.#pointerMove(event));
    document.addEventListener("pointerup", () => this.#up());
    document.addEventListener("click", (event) => this.#click(event));
    document.addEventListener("keydown", (event) => this.#keys(event));
    document.addEventListener("keydown", (event) => this.#giveUp(event), { capture: true });
    document.addEventListener("wheel", (event) => this.#wheel(event), { passive: false });
    window.addEventListener("resize", () => this.overview());
    this.restore();
  }

  get frames() { return Number(section().dataset.frames); }
  get length() { return Number(section().dataset.span); }
  /** The stretch of frames marked by hand, [from, to], or null. */
  get span() { return this.span_; }

  set span(ends) {
    this.span_ = ends;
    const band = document.getElementById("span");
    band.hidden = ends === null;
    if (ends) { band.style.setProperty("--from", ends[0]); band.style.setProperty("--long", ends[1] - ends[0]); }
  }

  get loops() { return section().dataset.loop === "true"; }

  /** After the server has sent wires anew: what the page alone knows is put on again. */
  restore() {
    const root = section();
    if (root.dataset.revision === this.known) { this.picked.show(); return; } // at most some wires' beads are new
    this.known = root.dataset.revision;
    root.style.setProperty("--span", this.length);
    if (!this.ppf) this.ppf = Math.max(3, Math.min(30, (scroller().clientWidth - LEFT - PAD - 60) / this.length));
    for (const group of root.querySelectorAll("[data-fold]")) this.#fold(group, this.folds.get(group.dataset.fold) ?? group.dataset.shut === "true");
    if (this.scroller !== scroller()) {
      this.scroller = scroller();
      scroller().addEventListener("scroll", () => this.overview());
    }
    this.#nameFoldAll();
    this.zoomTo(this.ppf);
    this.setFrame(this.frame);
    this.picked.show();
    this.span = this.span_;
  }

  setFrame(frame) {
    this.frame = frame;
    // Not on the section: every bead in it would be styled anew with every picture.
    for (const id of ["playhead", "flag"]) document.getElementById(id).style.setProperty("--at", frame);
    const shown = frame + Number(section().dataset.first);
    document.getElementById("flag").textContent = Number.isInteger(shown) ? shown : shown.toFixed(1);
    document.getElementById("ruler").setAttribute("aria-valuenow", frame);
    if (!this.drag) this.#follow();
  }

  /** Keep the playhead in sight. */
  #follow() {
    const box = scroller(), x = PAD + this.frame * this.ppf;
    const seen = box.clientWidth - LEFT;
    if (x < box.scrollLeft || x > box.scrollLeft + seen - PAD) box.scrollLeft = x - seen / 3;
  }

  /** Scroll by most of what is seen, to either side. */
  page(direction) { scroller().scrollBy({ left: direction * 0.8 * (scroller().clientWidth - LEFT) }); }

  /** Zoom about a place in the scroller: the playhead's unless another is given, or the middle if that is out of sight. */
  zoomTo(ppf, atX = null) {
    const box = scroller();
    const head = LEFT + PAD + this.frame * this.ppf - box.scrollLeft;
    const x = atX ?? (head >= LEFT && head <= box.clientWidth ? head : box.clientWidth / 2);
    const frame = (box.scrollLeft + x - LEFT - PAD) / this.ppf;
    this.ppf = Math.max(0.5, Math.min(80, ppf));
    section().style.setProperty("--ppf", this.ppf);
    section().dataset.density = this.ppf > 24 ? "3" : this.ppf > 15 ? "2" : this.ppf > 6 ? "1" : "0";
    box.scrollLeft = frame * this.ppf + LEFT + PAD - x;
    this.overview();
    this.onZoom();
  }

  overview() {
    const box = scroller();
    const window_ = document.getElementById("overview-window");
    if (!box || !window_) return;
    const room = Math.max(1, box.scrollWidth - LEFT), seen = box.clientWidth - LEFT;
    window_.style.setProperty("--from", (100 * box.scrollLeft) / room);
    window_.style.setProperty("--share", Math.min(100, (100 * seen) / room));
  }

  #frameAt(event) {
    const box = document.getElementById("ruler").getBoundingClientRect();
    return (event.clientX - box.left) / this.ppf;
  }

  /** A puppet's fold hides its groups, a group's fold its bones. */
  #fold(group, folded) {
    this.folds.set(group.dataset.fold, folded);
    group.classList.toggle("folded", folded);
    group.querySelector(".fold")?.setAttribute("aria-expanded", String(!folded));
  }

  #click(event) {
    const target = event.target.closest?.("#wires .fold, #fold-all, #tl-in, #tl-out");
    if (!target) return;
    if (target.id === "tl-in") this.zoomTo(this.ppf * 1.4);
    else if (target.id === "tl-out") this.zoomTo(this.ppf / 1.4);
    else if (target.id === "fold-all") this.#foldAll();
    else {
      const group = target.closest(".tl-group.seat") ? target.closest(".tl-cast") : target.closest(".tl-group");
      this.#fold(group, !group.classList.contains("folded"));
    }
    this.#nameFoldAll();
    this.overview();
  }

  #groups() { return [...section().querySelectorAll(".tl-group:not(.seat)")].filter((group) => !group.closest(".tl-cast.folded")); }

  #foldAll() {
    const groups = this.#groups();
    const any = groups.some((group) => !group.classList.contains("folded"));
    for (const group of groups) this.#fold(group, any);
  }

  #nameFoldAll() {
    const any = this.#groups().some((group) => !group.classList.contains("folded"));
    document.getElementById("fold-all").textContent = any ? "fold all" : "unfold all";
  }

  #down(event) {
    if (event.button !== 0 || !event.target.closest?.("#wires")) return;
    const { target } = event;
    if (event.altKey && !target.closest(".wirename, .tl-corner, .poses, #overview, button")) this.#startSpan(event);
    else if (target.closest(".marker")) this.#grabMarker(event, target.closest(".marker"));
    else if (target.closest("#ruler")) { this.drag = { kind: "seek" }; this.#seek(event); }
    else if (target.closest("#overview")) this.#grabOverview(event);
    else if (target.closest(".bead")) this.#grabBead(event, target.closest(".bead"));
    else if (!target.closest(".wirename, .tl-head, button")) this.#startBox(event);
    if (this.drag) event.preventDefault();
  }

  #grabMarker(event, marker) { this.drag = { kind: "marker", marker, from: event.clientX, by: 0, frame: Number(marker.dataset.frame) }; }

  #startSpan(event) {
    const at = Math.max(0, Math.round(this.#frameAt(event)));
    this.drag = { kind: "span", at, was: this.span };
    this.span = null;
  }

  #seek(event) {
    const last = this.frames - 1;
    this.onSeek(Math.max(0, Math.min(last, Math.round(this.#frameAt(event)))));
  }

  #grabBead(event, bead) {
    bead.closest(".wirerow").focus({ preventScroll: true });
    const add = event.shiftKey || event.ctrlKey || event.metaKey;
    const chosen = this.picked.has(bead);
    if (!chosen || add) this.picked.choose([bead], add);
    this.drag = { kind: "beads", from: event.clientX, by: 0, alone: chosen && !add ? bead : null };
  }

  #startBox(event) {
    const inner = document.querySelector(".tl-inner").getBoundingClientRect();
    const box = document.createElement("div");
    box.className = "marquee";
    document.querySelector(".tl-inner").append(box);
    this.drag = { kind: "box", x: event.clientX - inner.left, y: event.clientY - inner.top, box, add: event.shiftKey };
  }

  #grabOverview(event) {
    const edge = event.target.closest("[data-edge]")?.dataset.edge ?? null;
    this.drag = { kind: "overview", edge, from: event.clientX, scroll: scroller().scrollLeft, ppf: this.ppf };
  }

  #pointerMove(event) {
    const { drag } = this;
    if (!drag) return;
    if (drag.kind === "seek") this.#seek(event);
    else if (drag.kind === "span") {
      const now = Math.max(0, Math.round(this.#frameAt(event)));
      this.span = now === drag.at ? null : [Math.min(now, drag.at), Math.max(now, drag.at)];
    } else if (drag.kind === "marker") {
      drag.by = Math.max(-drag.frame, Math.round((event.clientX - drag.from) / this.ppf));
      drag.marker.setAttribute("transform", `translate(${drag.by * this.ppf} 0)`);
    } else if (drag.kind === "beads") {
      drag.by = Math.round((event.clientX - drag.from) / this.ppf);
      this.picked.offset(drag.by * this.ppf);
    } else if (drag.kind === "box") this.#sizeBox(event);
    else this.#dragOverview(event);
  }

  #sizeBox(event) {
    const inner = document.querySelector(".tl-inner").getBoundingClientRect();
    const { x, y, box } = this.drag;
    const nx = event.clientX - inner.left, ny = event.clientY - inner.top;
    Object.assign(box.style, {
      left: `${Math.min(x, nx)}px`, top: `${Math.min(y, ny)}px`, width: `${Math.abs(nx - x)}px`, height: `${Math.abs(ny - y)}px`,
    });
  }

  #dragOverview(event) {
    const box = scroller(), bar = document.getElementById("overview").getBoundingClientRect();
    const { edge, from, scroll, ppf } = this.drag;
    const share = (event.clientX - from) / bar.width;
    if (!edge) { box.scrollLeft = scroll + share * (box.scrollWidth - LEFT); return; }
    const seen = (box.clientWidth - LEFT) / (ppf * this.length);
    const next = Math.max(0.02, seen + (edge === "right" ? share : -share));
    this.zoomTo((box.clientWidth - LEFT) / (this.length * next), edge === "right" ? LEFT : box.clientWidth);
  }

  #up() {
    const { drag } = this;
    this.drag = null;
    if (!drag) return;
    if (drag.kind === "span") this.onSpan();
    else if (drag.kind === "marker") {
      if (drag.by) this.onMarker(drag.marker.dataset.marker, drag.frame + drag.by);
      else this.onSeek(drag.frame);
    }
    else if (drag.kind === "beads") {
      this.picked.offset(0);
      if (drag.by) this.onMove(drag.by);
      else if (drag.alone) this.picked.choose([drag.alone], false);
    } else if (drag.kind === "box") {
      const area = drag.box.getBoundingClientRect();
      drag.box.remove();
      const inside = [...section().querySelectorAll(".bead")].filter((bead) => {
        const b = bead.getBoundingClientRect();
        return b.width && b.left < area.right && b.right > area.left && b.top < area.bottom && b.bottom > area.top;
      });
      this.picked.choose(inside, drag.add);
    }
  }

  /** Escape lets go of dragged beads, or of a box, and changes nothing. */
  #giveUp(event) {
    if (event.key !== "Escape" || !this.drag) return;
    event.preventDefault();
    this.picked.offset(0);
    this.drag.box?.remove();
    this.drag.marker?.removeAttribute("transform");
    if (this.drag.kind === "span") this.span = this.drag.was;
    this.drag = null;
  }

  #wheel(event) {
    if (!event.ctrlKey || !event.target.closest?.("#wires")) return;
    event.preventDefault();
    const box = scroller().getBoundingClientRect();
    this.zoomTo(this.ppf * Math.exp(-event.deltaY * 0.002), event.clientX - box.left);
  }

  /** One tab stop a wire; arrows move along its beads. */
  #keys(event) {
    const row = event.target.closest?.(".wirerow");
    if (!row || event.target !== row || event.altKey || event.ctrlKey) return;
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    const vertical = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (step) {
      event.preventDefault();
      const beads = [...row.querySelectorAll(".bead")];
      if (!beads.length) return;
      const at = beads.findIndex((bead) => bead.classList.contains("cursor"));
      const next = beads[(at + step + beads.length + (at < 0 && step < 0 ? 1 : 0)) % beads.length];
      for (const bead of section().querySelectorAll(".cursor")) bead.classList.remove("cursor");
      next.classList.add("cursor");
      this.picked.choose([next], event.shiftKey);
      this.onSeek(Number(next.dataset.time));
    } else if (vertical) {
      event.preventDefault();
      const rows = [...section().querySelectorAll(".wirerow")].filter((other) => other.offsetParent);
      rows[rows.indexOf(row) + vertical]?.focus();
    } else if (event.key === "Enter") {
      row.querySelector(".pick").click();
    }
  }
}
