// When each wire has beads: read once from what the server has sent, and again only after it has sent more.

const HERE = 1e-6; // frames within which a bead lies on the playhead

export class KeyTimes {
  /** @type {Map<string, { instance: string, owner: string, bone: boolean, times: number[] }> | null} */
  #wires = null;

  /** @param {HTMLElement} root what holds the wires, whatever is sent anew within it */
  constructor(root) {
    this.root = root;
    this.observer = new MutationObserver(() => { this.#wires = null; });
    this.observer.observe(root, { childList: true, subtree: true, attributes: true, attributeFilter: ["data-time"] });
  }

  get wires() {
    if (this.observer.takeRecords().length) this.#wires = null;
    if (!this.#wires) {
      this.#wires = new Map();
      for (const row of this.root.querySelectorAll(".wirerow.bone, .seat .wirerow")) {
        const { instance, owner } = row.dataset, times = [...row.querySelectorAll(".bead")].map((bead) => Number(bead.dataset.time));
        this.#wires.set(`${instance} ${owner}`, { instance, owner, bone: row.classList.contains("bone"), times });
      }
    }
    return this.#wires;
  }

  /** Times on which a node's own wire has a bead. */
  of(instance, owner) { return new Set(this.wires.get(`${instance} ${owner}`)?.times); }

  /** Ids of the bones, pins and controls of a puppet that have a bead on this frame. */
  at(instance, frame) {
    const found = new Set();
    for (const wire of this.wires.values()) {
      if (wire.bone && wire.instance === instance && wire.times.some((time) => Math.abs(time - frame) < HERE)) found.add(wire.owner);
    }
    return found;
  }

  /** Beads by time, in order: (time, how many); of some owners' wires, when any are given. */
  counts(owners = new Set()) {
    const found = new Map();
    for (const { owner, times } of this.wires.values()) {
      if (owners.size && !owners.has(owner)) continue;
      for (const time of times) found.set(time, (found.get(time) ?? 0) + 1);
    }
    return [...found].sort(([a], [b]) => a - b);
  }
}
