// Pads and gauges on the Floor: their point is placed on the card, seen at once, and keyed when it is let go.
import { installDials } from "../stage/dial.js";
import { post } from "../shared/edits.js";

export function installDialling({ base, player, live, rider, commit }) {
  const card = document.getElementById("card");
  const owner = (dial) => [dial.closest("[data-dial-of]").dataset.dialOf, dial.dataset.dial];
  let held = null; // while riding: the dial, and where the hand has its point

  function show(dial, x, y, frame) {
    live.send({ kind: "stand", control: dial.dataset.kind, x, y, frame, blocking: player.blocking, nodes: [owner(dial)] });
  }

  const dials = installDials(card, {
    moved(dial, x, y) {
      player.stop();
      if (rider.on && !held) ride(dial);
      if (held) held.at = [x, y];
      else show(dial, x, y, player.frame);
      card.querySelectorAll(`[data-control="${dial.dataset.dial}"] input[data-set=dial]`).forEach((input) => { input.value = input.name === "y" ? y : x; });
    },
    async set(dial, x, y) {
      if (held) { endRide(); return; }
      await live.settled();
      const values = [[...owner(dial), "x", x], ...(dial.dataset.kind === "pad" ? [[...owner(dial), "y", y]] : [])];
      if (!(await commit(player.frame, values))) player.show();
    },
    dropped() { live.drop(); held = null; player.show(); },
  });

  function ride(dial) {
    held = { dial, at: [0, 0] };
    const mine = held;
    rider.begin(mine, (frame) => { show(dial, ...mine.at, frame); return mine.at; }, endRide);
  }

  async function endRide() {
    const ridden = held;
    held = null;
    if (!ridden?.ride || ridden.ride.done) return;
    ridden.ride.done = true;
    const [instance, control] = owner(ridden.dial);
    const values = { instance, control, places: JSON.stringify(ridden.ride.places) };
    if (ridden.ride.places.length < 2 || !(await post(`${base}/ride-control`, values))) player.show();
  }

  return dials;
}
