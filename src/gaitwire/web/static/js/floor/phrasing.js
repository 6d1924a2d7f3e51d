// Phrases: made from beads, found by their tags, laid from the playhead on, changed on their card.
import { findPhrases } from "../shared/common.js";
import { post } from "../shared/edits.js";
import { instanceOf } from "./cardedits.js";

export function installPhrasing({ base, nodes, beads, player, choose }) {
  const card = document.getElementById("card");
  const value = (id) => document.getElementById(id)?.value ?? "";
  const ticked = (id) => document.getElementById(id).checked;
  const useOf = (element) => `${base}/phrases/${element.closest("[data-use]").dataset.use}`;

  /** Post, and choose the use that comes of it. */
  async function chosen(instance, url, values) {
    const made = (await post(url, values))?.get("Gw-Made");
    if (made) choose([[instance, made]]);
  }

  async function away(button) {
    const instance = nodes()[0]?.[0], id = button.closest("[data-use]").dataset.use;
    if (await post(`${useOf(button)}/remove`) && nodes()[0]?.[1] === id) choose([[instance, instance]]);
  }

  card.addEventListener("input", ({ target }) => { if (target.id === "phrase-find") findPhrases(target.value, ".phrasetile"); });
  card.addEventListener("change", ({ target: input }) => {
    if (input.id === "make-into") card.querySelector(".making").hidden = input.value !== "";
    const place = { use: "set", "phrase-setting": "setting" }[input.dataset.set];
    if (place) post(`${useOf(input)}/${place}`, { field: input.name, value: input.type === "checkbox" ? String(input.checked) : input.value });
  });

  return {
    acts: {
      "phrase-make": () => post(`${base}/phrases/make`, {
        beads: JSON.stringify(beads()), name: value("make-name"), tags: value("make-tags"), counts_from: value("make-counts"),
        goes_on: String(!ticked("make-back")), put: String(ticked("make-put")), into: value("make-into"),
      }),
      "phrase-lay": (button) => chosen(instanceOf(button), `${base}/phrases/lay`, { instance: instanceOf(button), ref: button.dataset.ref, frame: player.frame }),
      "phrase-choose": (button) => choose([[instanceOf(button), button.dataset.use]]),
      "phrase-again": (button) => chosen(nodes()[0][0], `${useOf(button)}/again`, { frame: player.frame }),
      "phrase-untie": (button) => post(`${useOf(button)}/untie`),
      "phrase-keep": (button) => post(`${useOf(button)}/keep`, { name: value("phrase-name") }),
      "phrase-own": async (button) => {
        const instance = nodes()[0][0];
        if (await post(`${useOf(button)}/own`)) choose([[instance, instance]]);
      },
      "phrase-fit": (button) => post(`${useOf(button)}/fit`),
      "phrase-away": away,
    },
  };
}
