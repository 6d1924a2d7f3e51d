// What is done with whole-body poses: keyed, retimed, copied, broken down.
import { post, remark } from "../shared/edits.js";

export function installPoses({ base, strip, player, subject, nodes, choosePose, posed }) {
  const url = (action) => `${base}/poses/${encodeURIComponent(posed())}/${action}`;

  /** An edit that makes or moves a pose: the one it answers with is chosen then. */
  async function making(path, values) {
    const headers = await post(path, values);
    const made = headers?.get("Gw-Made");
    if (made) choosePose(made);
    return made;
  }

  async function keyWhole() {
    const whose = subject();
    if (!whose) { remark("There is no puppet to key. Bring one in on the card at the right.", "error"); return; }
    await making(`${base}/poses/key`, { instance: whose.instance, frame: player.frame, nodes: JSON.stringify(nodes()) });
  }

  strip.onMove = (id, to) => making(`${base}/poses/${id}/move`, { to });

  const acts = {
    "pose-mark": () => making(url("set"), { field: "kind", value: "extreme" }),
    "pose-copy": () => making(url("copy"), { frame: player.frame }),
    "pose-end": () => making(url("end"), {}),
    "pose-break": () => making(url("breakdown"), { share: document.getElementById("break-share").value }),
    async "pose-delete"() { if (await post(url("delete"), { keys: "true" })) choosePose(""); },
    async "pose-unmark"() { if (await post(url("delete"), { keys: "false" })) choosePose(""); },
  };

  document.addEventListener("click", (event) => {
    if (event.target.id === "mark-poses" && subject()) post(`${base}/poses/mark-found`, { instance: subject().instance });
  });

  return { acts, keyWhole, set: (field, value) => making(url("set"), { field, value }) };
}
