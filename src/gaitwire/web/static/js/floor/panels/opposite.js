// The opposite pose itself, as a ghost over the stage; how it differs is Python's to list.
import { ask } from "../../shared/asking.js";
import { Frames } from "../../stage/frames.js";

export function install(panel, { base, player, subject, mirror }) {
  let asked = 0;

  /** The ghost of this frame; none while it plays. */
  async function drawn() {
    const whose = subject();
    asked += 1;
    if (player.playing || !whose || !panel.host.querySelector("[role=group]")) { mirror(null); return; }
    const ticket = asked, range = player.range ? `&first=${player.range[0]}&last=${player.range[1] + 1}` : "";
    const answer = await ask(`${base}/opposite.bin?instance=${whose.instance}&frame=${player.frame}${range}`);
    const frames = new Frames(await answer.arrayBuffer());
    if (ticket === asked && panel.open) mirror({ frames: { buffer: frames.buffer, offset: frames.offset }, of: whose.instance });
  }

  return { drawn, closed() { asked += 1; mirror(null); } };
}
