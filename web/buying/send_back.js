// Goods that go back to a supplier: scanned line by line, posted as one.
import { ask, newKey, showRefusal, onSubmit } from "./api.js";
import { values, watched } from "./form.js";
import { onScan, say } from "./scanline.js";

const form = document.getElementById("send-back");
const body = document.querySelector("#back-lines tbody");
const template = document.getElementById("back-line");
const box = document.getElementById("form-error");
const watch = watched(form);
let key = newKey();

function number() {
  for (const [i, row] of [...body.rows].entries()) {
    for (const field of row.querySelectorAll("[data-f]")) {
      field.name = `lines.${i}.${field.dataset.f}`;
      field.setAttribute("aria-label", `${row.dataset.name}, ${field.dataset.f}`);
    }
  }
}
/** A line of goods that go back. */
function line(variant, name) {
  const row = template.content.firstElementChild.cloneNode(true);
  row.dataset.variant = variant;
  row.dataset.name = name;
  row.querySelector("[data-name]").textContent = name;
  body.append(row);
  return row;
}
const first = JSON.parse(document.getElementById("first").textContent);
if (first) {
  const row = line(first.variant_id, first.name);
  for (const field of ["quantity", "condition", "serials"]) if (first[field]) row.querySelector(`[data-f="${field}"]`).value = first[field];
  row.dataset.lot = first.lot_id;
  number();
}
onScan(async (text) => {
  const found = await ask("GET", "/api/v1/find?q=" + encodeURIComponent(text));
  if (found.length !== 1 || found[0].kind !== "variant") { say(`${text} is not one thing. Scan it, or type its SKU.`, null, true); return; }
  const f = found[0];
  let row = body.querySelector(`tr[data-variant="${f.id}"]`);
  if (row && !f.serial) row.querySelector('[data-f="quantity"]').value = Number(row.querySelector('[data-f="quantity"]').value || 0) + 1;
  row ||= line(f.id, [f.name, f.detail].filter(Boolean).join(", "));
  if (f.serial) {
    const serials = row.querySelector('[data-f="serials"]');
    const list = serials.value.split(",").map((s) => s.trim()).filter(Boolean);
    if (!list.includes(f.serial)) list.push(f.serial);
    serials.value = list.join(", ");
    row.querySelector('[data-f="quantity"]').value = list.length;
  }
  number();
  say(`${row.dataset.name}: ${row.querySelector('[data-f="quantity"]').value} go back.`);
}, true);
body.addEventListener("click", (event) => {
  if (!event.target.closest("[data-drop]")) return;
  event.target.closest("tr").remove();
  number();
});
onSubmit(form, async () => {
  showRefusal(box, null, form);
  const lines = [...body.rows].map((row) => ({ variant_id: Number(row.dataset.variant), lot_id: Number(row.dataset.lot || 0),
    ...Object.fromEntries([...row.querySelectorAll("[data-f]")].map((field) => [field.dataset.f, field.value])) }));
  const { supplier_id, note } = values(form);
  try {
    const done = await ask("POST", "/api/v1/send-back", { supplier_id, branch_id: Number(form.dataset.branch), note, lines }, key);
    watch.sent();
    location.href = "/documents/" + done.number;
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal, form);
  }
});
