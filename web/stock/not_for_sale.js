// What is not for sale: chosen by a tick or by a scan, and taken its next step, many at once.
import { ask, guarded, newKey, showRefusal } from "./api.js";
import { onScan, say } from "./scanline.js";

const box = document.getElementById("form-error");
const many = document.getElementById("many");
const rows = [...document.querySelectorAll("[data-off]")];
let key = newKey();

const ticked = () => rows.filter((row) => row.querySelector("[data-choose]").checked);
function tell() {
  const list = ticked();
  document.getElementById("chosen").textContent = list.length ? `${list.length} chosen` : "none chosen";
  for (const field of many.querySelectorAll("[data-into], [data-other], #scrap, [name=reason_id]")) field.disabled = list.length === 0;
  for (const row of rows) row.classList.toggle("on", list.includes(row));
  const back = document.getElementById("back");
  if (back) {
    back.hidden = list.length !== 1;
    if (list.length === 1) {
      const { variant, from, lot, branch, serials } = list[0].dataset;
      back.href = "/buying/back?" + new URLSearchParams({ variant, condition: from, quantity: list[0].querySelector('[data-f="quantity"]').value, lot, branch, serials });
    }
  }
}
const lines = () => ticked().map((row) => {
  const { variant, branch, lot, from, serials } = row.dataset;
  return { variant_id: Number(variant), branch_id: Number(branch), lot_id: Number(lot), from, quantity: row.querySelector('[data-f="quantity"]').value, serials };
});
const change = guarded(async (more) => {
  showRefusal(box, null);
  try {
    await ask("POST", "/api/v1/condition-changes/many", { lines: lines(), to: "", write_off: false, reason_id: 0, note: "", with_whom: "", back_by: "", ...more }, key);
    location.reload();
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal);
    const at = /^lines\.(\d+)\./.exec(refusal.field || "");
    if (at) ticked()[Number(at[1])].querySelector('[data-f="quantity"]').focus();
  }
});
if (many) {
  document.addEventListener("change", (event) => {
    if (event.target.id === "every") for (const row of rows) row.querySelector("[data-choose]").checked = event.target.checked;
    if (event.target.id === "every" || event.target.matches("[data-choose], [data-f]")) tell();
  });
  for (const row of rows) {
    row.querySelector("[data-next]")?.addEventListener("click", () => {
      for (const other of rows) other.querySelector("[data-choose]").checked = other === row;
      tell();
      change({ to: "For sale" });
    });
  }
  for (const button of many.querySelectorAll("[data-into]")) button.addEventListener("click", () => change({ to: button.dataset.into }));
  const other = many.querySelector("[data-other]");
  const holder = document.getElementById("holder");
  other.addEventListener("change", () => {
    holder.hidden = !other.selectedOptions[0].dataset.holder;
    if (other.value && holder.hidden) change({ to: other.value });
    else holder.querySelector("input").focus();
  });
  document.getElementById("hold").addEventListener("click", () => change({ to: other.value, with_whom: many.elements.with_whom.value, back_by: many.elements.back_by.value }));
  document.getElementById("scrap")?.addEventListener("click", () => change({ write_off: true, reason_id: Number(many.elements.reason_id.value) }));
  many.addEventListener("submit", (event) => event.preventDefault());
  onScan(async (text) => {
    const found = await ask("GET", "/api/v1/find?q=" + encodeURIComponent(text));
    const hit = rows.filter((row) => found.some((f) => f.kind === "variant" && String(f.id) === row.dataset.variant && (!f.condition || f.condition === row.dataset.from) && (!f.serial || row.dataset.serials.split(",").includes(f.serial))));
    if (!hit.length) { say(`Nothing of ${text} stands here.`, null, true); return; }
    for (const row of hit) row.querySelector("[data-choose]").checked = true;
    hit[0].scrollIntoView({ block: "center" });
    tell();
    say(`${hit[0].querySelector("a").textContent} is chosen.`);
  }, true);
  tell();
}
