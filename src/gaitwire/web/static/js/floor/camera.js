// The camera: its frame over the stage, to be dragged, zoomed and turned; and the stage seen through it.
import { post } from "../shared/edits.js";
import { svg } from "../stage/stage.js";

const ARM = 18; // pixels of a corner's mark
const KNOB = 26; // pixels from the frame to the knob that turns it

export function installCamera({ base, stage, player, wires, live, info, nodes, choose, changed }) {
  const button = document.getElementById("lens");
  const group = svg("g", { class: "camera", display: "none" }, stage.overlay);
  const edge = svg("path", { class: "rim" }, group);
  const hold = svg("path", { class: "hold", "data-grip": "camera", role: "button", "data-way": "shift", "aria-label": "Camera: drag to move it" }, group);
  const corners = [0, 1, 2, 3].map((n) => svg("path", { class: "corner", "data-grip": "camera", role: "button", "data-way": "zoom", "aria-label": `Camera: corner ${n + 1}, drag to zoom` }, group));
  const stalk = svg("path", { class: "stalk" }, group);
  const knob = svg("circle", { class: "knob", r: 6, "data-grip": "camera", role: "button", "data-way": "turn", "aria-label": "Camera: drag to turn it" }, group);

  /** The corners of the camera's frame on a frame of the scene, in stage pixels, clockwise from the top left. */
  function frameOf(frames, index, node) {
    const [a, b, c, d, x, y] = frames.bone(index, node), [w, h] = info().size;
    const turn = Math.hypot(a, b), zoom = Math.hypot(c, d);
    const ux = a / turn, uy = b / turn, hw = w / 2 / zoom, hh = h / 2 / zoom;
    return [[-hw, -hh], [hw, -hh], [hw, hh], [-hw, hh]].map(([p, q]) => [x + ux * p - uy * q, y + uy * p + ux * q]);
  }

  function draw() {
    const camera = info()?.camera, { frames, index } = stage;
    const shown = Boolean(camera && frames && !player.lens && !player.playing && wires.visible && camera.node < frames.nodes);
    group.setAttribute("display", shown ? "inline" : "none");
    if (!shown) return;
    group.dataset.instance = group.dataset.bone = camera.instance;
    group.classList.toggle("chosen", nodes().some(([, owner]) => owner === camera.instance));
    const at = frameOf(frames, index, camera.node).map(([x, y]) => stage.toScreen(x, y));
    const line = `M${at.map((p) => p.join(" ")).join("L")}Z`;
    edge.setAttribute("d", line);
    hold.setAttribute("d", line);
    at.forEach((corner, n) => {
      const arm = (to) => {
        const long = Math.hypot(to[0] - corner[0], to[1] - corner[1]) || 1, share = Math.min(ARM, long / 3) / long;
        return `${corner[0] + (to[0] - corner[0]) * share} ${corner[1] + (to[1] - corner[1]) * share}`;
      };
      corners[n].setAttribute("d", `M${arm(at[(n + 3) % 4])}L${corner.join(" ")}L${arm(at[(n + 1) % 4])}`);
    });
    const top = [(at[0][0] + at[1][0]) / 2, (at[0][1] + at[1][1]) / 2], down = [at[3][0] - at[0][0], at[3][1] - at[0][1]];
    const tall = Math.hypot(...down) || 1;
    const end = [top[0] + (down[0] / tall) * KNOB, top[1] + (down[1] / tall) * KNOB];
    stalk.setAttribute("d", `M${top.join(" ")}L${end.join(" ")}`);
    knob.setAttribute("cx", end[0]);
    knob.setAttribute("cy", end[1]);
  }

  /** Look through the lens, or at the stage: what is drawn comes from Python as it is to be seen. */
  function toggle() {
    if (!info()?.camera) return;
    player.lens = live.lens = !player.lens;
    stage.host.classList.toggle("lens", player.lens);
    button.setAttribute("aria-pressed", String(player.lens));
    changed();
  }

  /** The button is there while there is a camera; when that is gone, so is the view through it. */
  function renew() {
    button.hidden = !info().camera;
    if (!info().camera && player.lens) {
      player.lens = live.lens = false;
      stage.host.classList.remove("lens");
      changed();
    }
    draw();
  }

  async function add() {
    const headers = await post(`${base}/camera/add`);
    const id = headers?.get("Gw-Made");
    if (id) choose([[id, id]]);
  }

  stage.onDraw(draw);
  button.addEventListener("click", toggle);
  return { toggle, renew, acts: { camera: add, lens: toggle } };
}
