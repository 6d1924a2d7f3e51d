// The Notes panel: measured faults and facts of the scene; a click goes to the frame and chooses the bone.
import { ask } from "../shared/asking.js";
import { post } from "../shared/edits.js";

export function installNotes({ base, player, choose, seek }) {
  const box = document.getElementById("notes"), button = document.getElementById("notes-on");
  let shown = "";

  /** Measured anew whenever the scene has changed, once its frames are there. */
  async function renew() {
    if (box.hidden || !player.all || shown === String(player.all.stamp)) return;
    shown = String(player.all.stamp);
    const text = await (await ask(`${base}/notes`)).text();
    box.replaceChildren(new DOMParser().parseFromString(text, "text/html").body.firstElementChild);
  }

  function toggle() {
    box.hidden = !box.hidden;
    button.setAttribute("aria-pressed", String(!box.hidden));
    shown = "";
    renew();
  }

  box.addEventListener("click", ({ target }) => {
    const remedy = target.closest("[data-remedy]");
    if (remedy) { post(remedy.dataset.remedy); return; }
    const row = target.closest("[data-note]");
    if (!row) return;
    seek(Number(row.dataset.frame));
    choose([[row.dataset.instance, row.dataset.owner]]);
  });
  button.addEventListener("click", toggle);
  return { renew, toggle };
}
