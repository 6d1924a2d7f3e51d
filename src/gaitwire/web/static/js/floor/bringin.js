// Puppets brought in from the shelf: dropped on the stage, or by a click to the middle of its ground.
import { post } from "../shared/edits.js";

const KIND = "application/x-gaitwire-puppet";

export function installBringIn({ base, stage, choose }) {
  async function bring(puppet, place = {}) {
    const headers = await post(`${base}/puppets/add`, { puppet, ...place });
    const made = headers?.get("Gw-Made");
    if (made) choose([[made, made]]);
  }

  document.addEventListener("dragstart", (event) => {
    const source = event.target.closest?.("[data-bring]");
    if (!source) return;
    event.dataTransfer.setData(KIND, source.dataset.bring);
    event.dataTransfer.effectAllowed = "copy";
  });
  document.addEventListener("click", (event) => {
    const source = event.target.closest?.("[data-bring]");
    if (source) bring(source.dataset.bring);
  });
  stage.host.addEventListener("dragover", (event) => {
    if (!event.dataTransfer.types.includes(KIND)) return;
    event.preventDefault();
    event.dataTransfer.dropEffect = "copy";
  });
  stage.host.addEventListener("drop", (event) => {
    const puppet = event.dataTransfer.getData(KIND);
    if (!puppet) return;
    event.preventDefault();
    const [x, y] = stage.toStage(event);
    bring(puppet, { x: x.toFixed(1), y: y.toFixed(1) });
  });
}
