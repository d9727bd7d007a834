import { ask, guarded, part, showRefusal } from "./api.js";
import { addUp } from "./rack.js";
import { onScan, say } from "./scanline.js";

const layout = document.getElementById("layout");
const preview = document.getElementById("preview");
const box = document.getElementById("form-error");
const pdf = document.getElementById("pdf");
const here = JSON.parse(document.getElementById("here").textContent);
const cells = () => [...document.querySelectorAll("input.rack-cell")];
const wishes = () => cells().filter((c) => Number(c.value) > 0).map((c) => ({ variant_id: Number(c.dataset.variant), copies: Number(c.value) }));
const query = () => "?layout=" + layout.value + wishes().map((w) => `&n=${w.variant_id}:${w.copies}`).join("");

async function draw() {
  pdf.href = "/labels/pdf" + query();
  if (wishes().length === 0) return;
  try {
    preview.innerHTML = await part("/labels/preview" + query());
    showRefusal(box, null);
  } catch (refusal) { showRefusal(box, refusal); }
}
document.addEventListener("rack-set", (event) => {
  for (const c of event.detail.cells) {
    const right = c.value === "" || /^\d{1,5}$/.test(c.value);
    c.cell.closest(".hanger").classList.toggle("wrong", !right);
    if (!right) { showRefusal(box, { message: `${c.value} labels can't be printed.`, want: "a whole number" }); return; }
  }
  draw();
});
layout.addEventListener("change", draw);
document.getElementById("as-here").addEventListener("click", () => {
  for (const c of cells()) c.value = here[c.dataset.variant] > 0 ? here[c.dataset.variant] : "";
  for (const rack of document.querySelectorAll(".rack")) addUp(rack);
  draw();
});
pdf.addEventListener("click", (event) => {
  if (wishes().length === 0) { event.preventDefault(); showRefusal(box, { message: "No label is chosen yet.", want: "a number in the rack" }); }
});
document.getElementById("print").addEventListener("click", guarded(async () => {
  try {
    const done = await ask("POST", "/api/v1/labels", { layout: layout.value, labels: wishes() });
    showRefusal(box, null);
    say(`${done.labels} labels printed on ${done.pages} ${done.pages === 1 ? "page" : "pages"}.`);
  } catch (refusal) { showRefusal(box, refusal); }
}));
onScan(async (text) => {
  const found = await ask("GET", "/api/v1/find?q=" + encodeURIComponent(text));
  const cell = found.length === 1 && cells().find((c) => c.dataset.variant === String(found[0].id));
  if (!cell) { say(`${text} is not on this rack.`, null, true); return; }
  cell.value = Number(cell.value || 0) + 1;
  say(`${cell.getAttribute("aria-label")}: ${cell.value}.`);
  addUp(cell.closest(".rack"));
  draw();
});
cells()[0]?.focus();
