// Riding: what is chosen is moved by hand while the scene goes on, and the movement is recorded.
import { post, remark } from "../shared/edits.js";

export class Rider {
  base; player;
  constructor({ base, player }) {
    Object.assign(this, { base, player, on: false });
  }

  toggle() {
    this.on = !this.on;
    document.getElementById("ride").setAttribute("aria-pressed", String(this.on));
    if (this.on) remark("Drag what is chosen: the scene plays from here, and the movement is kept.");
  }

  /** A walk's setting is held: what its slider is moved by while time goes on becomes keys. */
  installSettings(live) {
    const host = document.getElementById("card");
    host.addEventListener("change", ({ target }) => {
      if (!("rideName" in target.dataset)) return;
      const { low, high, value } = target.selectedOptions[0].dataset, slider = target.parentElement.querySelector("[data-ride]");
      Object.assign(slider, { min: low, max: high, value });
    });
    host.addEventListener("pointerdown", ({ target: slider }) => {
      if (!slider.dataset?.ride || this.held) return;
      const setting = slider.parentElement.querySelector("[data-ride-name]").value, said = slider.parentElement.querySelector("output");
      const gait = slider.dataset.ride;
      this.player.stop();
      const held = { slider };
      this.held = held;
      const end = () => this.#endSetting(gait, setting);
      document.addEventListener("pointerup", end, { once: true });
      this.begin(held, (frame) => {
        const value = Number(slider.value);
        said.textContent = value.toFixed(1);
        live.send({ kind: "walk", walk: gait, setting, value, frame });
        return [value];
      }, end);
    });
  }

  async #endSetting(gait, setting) {
    const { held } = this;
    this.held = null;
    if (!held?.ride || held.ride.done) return;
    held.ride.done = true;
    const values = { setting, places: JSON.stringify(held.ride.places) };
    if (held.ride.places.length < 2 || !(await post(`${this.base}/walks/${gait}/ride`, values))) this.player.show();
  }

  /** The hand has begun to move: time goes on from this frame until it lets go or the end comes. `move` shows a frame. */
  begin(gesture, move, end) {
    const { player } = this, from = player.frame, began = performance.now();
    const [, last] = player.ends;
    gesture.ride = { places: [] };
    const tick = (now) => {
      if (!gesture.ride || gesture.ride.done) return;
      const frame = Math.min(last, from + Math.floor((Math.max(0, now - began) / 1000) * player.info.rate * player.speed));
      if (frame !== gesture.ride.frame) {
        gesture.ride.frame = player.frame = frame;
        player.onFrame(frame);
        gesture.ride.places.push([frame, ...move(frame)]);
      }
      if (frame >= last) end();
      else requestAnimationFrame(tick);
    };
    tick(began);
  }

  /** The hand has let go. */
  async end({ ride, nodes, from }, gesture) {
    ride.done = true;
    if (ride.places.length < 2) { remark("This ride is too short.", "error"); this.player.show(); return; }
    const values = { gesture, nodes: JSON.stringify(nodes), x: from[0], y: from[1], places: JSON.stringify(ride.places) };
    if (!(await post(`${this.base}/ride`, values))) this.player.show();
  }
}
