// Plans a count: where, what, who.
import { ask, newKey, onSubmit, showRefusal } from "./api.js";
import { values, watched } from "./form.js";

const form = document.getElementById("plan");
const watch = watched(form);
const filter = JSON.parse(document.getElementById("filter")?.textContent || "{}");
const at = (id) => document.getElementById(id);
let key = newKey();

/** Offers the shelves of the branch that is chosen. */
function shelves() {
  for (const label of form.querySelectorAll("[data-branch]")) {
    label.hidden = label.dataset.branch !== form.elements.branch_id.value;
    if (label.hidden) label.querySelector("input").checked = false;
  }
}
form.elements.branch_id.addEventListener("change", shelves);
at("held_still").addEventListener("change", (event) => { at("until").hidden = !event.target.checked; });
const ticked = (name) => [...form.querySelectorAll(`[data-${name}]:checked`)].map((box) => Number(box.dataset[name]));

onSubmit(form, async () => {
  const box = form.querySelector("[data-error]");
  showRefusal(box, null, form);
  const { branch_id, category_id, whole, class: of, not_counted, moved, blind, held_still, held_until, note } = values(form);
  const chosen = { ...filter };
  if (at("words").value.trim()) chosen.words = at("words").value.trim();
  if (Number(at("supplier").value)) chosen.supplier = Number(at("supplier").value);
  if (at("brand").value) chosen.brand = at("brand").value;
  try {
    const made = await ask("POST", "/api/v1/counts", { branch_id, category_id, whole, class: of, not_counted, moved, blind, held_still, held_until, note,
      filter: chosen, shelf_ids: ticked("shelf"), counter_ids: ticked("counter"), codes: at("codes").value.split("\n").map((c) => c.trim()).filter(Boolean) }, key);
    watch.sent();
    location.href = "/counts/" + made.id;
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal, form);
  }
});
shelves();
