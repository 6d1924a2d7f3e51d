// Which beads are chosen: (instance, owner, time); a group's bead stands for all of its bones'.

function keyOf(instance, owner, time) { return `${instance}|${owner}|${Number(time)}`; }

export class Picked {
  constructor(onChange) {
    this.beads = new Map();
    this.onChange = onChange;
  }

  static of(bead) {
    const { instance, owner } = bead.closest(".wirerow").dataset;
    return [instance, owner, Number(bead.dataset.time)];
  }

  /** The bones' beads that a bead on the page stands for. */
  static expand(bead) {
    const row = bead.closest(".wirerow");
    if (!row.dataset.owner.startsWith("@")) return [Picked.of(bead)];
    const time = Number(bead.dataset.time);
    const members = row.closest(".tl-group").querySelectorAll(".wirerow.bone .bead");
    return [...members].filter((other) => Math.abs(Number(other.dataset.time) - time) < 1e-6).map(Picked.of);
  }

  has(bead) {
    const parts = Picked.expand(bead);
    return parts.length > 0 && parts.every((part) => this.beads.has(keyOf(...part)));
  }

  choose(elements, add) {
    const parts = elements.flatMap(Picked.expand);
    if (!add) this.beads.clear();
    const take = add && parts.length > 0 && parts.every((part) => this.beads.has(keyOf(...part)));
    for (const part of parts) {
      if (take) this.beads.delete(keyOf(...part));
      else this.beads.set(keyOf(...part), part);
    }
    this.show();
    this.onChange();
  }

  set(list) {
    this.beads = new Map(list.map((part) => [keyOf(...part), part]));
    this.show();
  }

  get list() { return [...this.beads.values()]; }
  get size() { return this.beads.size; }

  show() {
    for (const bead of document.querySelectorAll("#wires .bead")) {
      bead.classList.toggle("chosen", this.beads.size > 0 && this.has(bead));
    }
  }

  /** While dragging: chosen beads drawn elsewhere. */
  offset(dx) {
    for (const bead of document.querySelectorAll("#wires .bead.chosen")) {
      if (dx) bead.setAttribute("transform", `translate(${dx} 0)`);
      else bead.removeAttribute("transform");
    }
  }
}
