// A walk written as keys from the puppet's card.
import { instanceOf } from "./cardedits.js";
import { post } from "./edits.js";

export function installWalking({ base }) {
  const value = (id) => document.getElementById(id).value;
  return {
    acts: {
      "write-walk": (button) => post(`${base}/walk/${instanceOf(button)}`, {
        card: value("walk-card"), start: value("walk-from"), stop: value("walk-to"), other: value("walk-other"), share: value("walk-share"),
        travels: String(document.getElementById("walk-travels").checked),
      }),
    },
  };
}
