// The pin tool of the Bench: lead and anchor pins on soft parts, alone or in pairs about the middle line.
import { post } from "../shared/edits.js";
import { svg } from "../stage/stage.js";

export function installPinTool(bench) {
  const { base, stage, wires, hints, chosen } = bench;
  const options = document.querySelector('[data-options="pin"]');
  const kind = () => options.querySelector("input[name=pinkind]:checked").value;
  const axis = () => (options.querySelector("#pin-pairs").checked ? Number(options.querySelector("#pin-axis").value.replace(",", ".")) : null);
  const mirrored = () => (axis() === null ? {} : { axis: axis() });

  /** The part a pin goes on: the chosen one, if it lies there, else what lies in front. */
  function partUnder(x, y) {
    const front = stage.partAt(x, y);
    const one = bench.model.parts.find((part) => chosen.parts.has(part.id) || part.id === bench.pinnedPart);
    return one && stage.art.get(one.arts[0]).hit(stage.probe, x, y, null) ? one : front;
  }

  bench.tools.pin = {
    draw() {
      if (axis() === null) return;
      const [x] = stage.toScreen(axis(), 0);
      svg("path", { class: "axis", d: `M${x} 0V${stage.host.clientHeight}` }, hints);
    },
    down(event, [x, y], grip) {
      if (grip?.kind === "pin") {
        if (!chosen.pins.has(grip.bone)) bench.choose("pins", grip.bone, event.shiftKey);
        bench.gesture = { kind: "pin", pin: grip.bone, item: wires.get(grip.bone), at: null };
        return;
      }
      const part = partUnder(x, y);
      bench.gesture = part ? { kind: "pin", part: part.id, at: [x, y] } : null;
    },
    move(event, point) {
      const { gesture } = bench;
      if (!gesture.pin) return;
      gesture.at = point;
      wires.draw(gesture.item, point, null);
    },
    async up(event, point) {
      const { pin, part, at } = bench.gesture;
      if (pin && at) await post(`${base}/pins/${pin}/move`, { x: at[0], y: at[1], ...mirrored() });
      if (pin) return;
      const headers = await post(`${base}/pins/add`, { part, kind: kind(), x: point[0], y: point[1], ...mirrored() });
      if (!headers) return;
      bench.pinnedPart = part;
      bench.chooseAll("pins", headers.get("Gw-Made").split(","));
    },
  };
  options.addEventListener("change", () => bench.drawHints());
}
