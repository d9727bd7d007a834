// New prices on arrival: those that are ticked are taken, and their labels follow.
import { ask, guarded, newKey, showRefusal } from "./api.js";

const take = document.getElementById("take");
const box = document.getElementById("form-error");
let key = newKey();
take?.addEventListener("click", guarded(async () => {
  const chosen = [...document.querySelectorAll("[data-variant]:checked")].map((b) => Number(b.dataset.variant));
  if (!chosen.length) { showRefusal(box, { message: "Nothing is ticked." }); return; }
  try {
    const done = await ask("POST", `/api/v1/deliveries/${take.dataset.id}/prices`, { variant_ids: chosen }, key);
    location.href = "/labels?variants=" + done.variant_ids.join(",");
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal);
  }
}));
