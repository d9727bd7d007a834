import { ask, guarded, showRefusal } from "./api.js";

const box = document.getElementById("form-error");
const change = guarded(async (row, to) => {
  const { variant, branch, lot, from, serials } = row.dataset;
  try {
    await ask("POST", "/api/v1/condition-changes", { variant_id: Number(variant), branch_id: Number(branch), lot_id: Number(lot), from, to, quantity: row.querySelector('[data-f="quantity"]').value, serials });
    location.reload();
  } catch (refusal) { showRefusal(box, refusal); }
});
for (const row of document.querySelectorAll("[data-off]")) {
  row.querySelector("[data-to]")?.addEventListener("click", (event) => change(row, event.target.dataset.to));
  row.querySelector("[data-other]")?.addEventListener("change", (event) => event.target.value && change(row, event.target.value));
}
