// For tests and measuring: what is where on the stage, and how the page stands.

export function installProbe(stage, wires, more) {
  const probe = {
    partAt: (x, y) => stage.partAt(x, y, true)?.name ?? null,
    toPage(x, y) {
      const box = stage.host.getBoundingClientRect(), [sx, sy] = stage.toScreen(x, y);
      return [box.left + sx, box.top + sy];
    },
    joint(name) {
      wires.place();
      const item = wires.items.find((one) => one.node.name === name);
      return item && { at: item.at, end: item.end ?? null };
    },
    index: (name) => wires.items.find((one) => one.node.name === name)?.index,
    stage,
  };
  window.gaitwire = Object.defineProperties(probe, Object.getOwnPropertyDescriptors(more));
}
