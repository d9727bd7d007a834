// Choosing labels: how many of each, on what, seen as they print.
import { ask, guarded, make, part, showRefusal } from "./api.js";
import { whole } from "./form.js";
import { plural } from "./money.js";
import { addUp } from "./rack.js";
import { onScan, say } from "./scanline.js";

const template = document.getElementById("template");
const preview = document.getElementById("preview");
const box = document.getElementById("form-error");
const pdf = document.getElementById("pdf");
const skip = document.getElementById("skip");
const list = document.getElementById("list");
const condition = document.getElementById("condition");
const here = JSON.parse(document.getElementById("here").textContent);
const cells = () => [...document.querySelectorAll("input.rack-cell, input.wish")];
const wishes = () => cells().filter((c) => whole(c.value) !== 0).map((c) => ({ variant_id: Number(c.dataset.variant), copies: whole(c.value) }));
const request = () => ({ template: template.value, price_list_id: list ? Number(list.value) : 0, skip: whole(skip.value), condition: condition?.value ?? "", labels: wishes() });

if (localStorage.getItem("label-template") && !new URLSearchParams(location.search).get("template")) {
  template.value = localStorage.getItem("label-template");
  if (template.selectedIndex < 0) template.selectedIndex = 0;
}
/** Says which number of labels is none; it reports whether all are right. */
function right() {
  const wrong = cells().find((c) => typeof whole(c.value) !== "number");
  if (wrong) showRefusal(box, { message: `${wrong.value} labels can't be printed.`, want: "a whole number" });
  return !wrong;
}
let turn = 0;
async function draw() {
  const mine = ++turn;
  const r = request();
  document.getElementById("skip-label").hidden = Number(template.selectedOptions[0].dataset.per) < 2;
  pdf.href = `/labels/pdf?template=${encodeURIComponent(r.template)}&skip=${r.skip}&list=${r.price_list_id}&condition=${encodeURIComponent(r.condition)}` + r.labels.map((w) => `&n=${w.variant_id}:${w.copies}`).join("");
  if (!right() || r.labels.length === 0) return;
  try {
    const html = await part("/labels/preview", r);
    if (mine !== turn) return;
    preview.innerHTML = html;
    showRefusal(box, null);
  } catch (refusal) { if (mine === turn) showRefusal(box, refusal); }
}
document.addEventListener("rack-set", (event) => {
  for (const c of event.detail.cells) c.cell.closest(".hanger").classList.toggle("wrong", typeof whole(c.value) !== "number");
  draw();
});
document.getElementById("wanted").addEventListener("change", (event) => { if (event.target.matches(".wish")) draw(); });
template.addEventListener("change", () => { localStorage.setItem("label-template", template.value); draw(); });
for (const field of [skip, list, condition]) field?.addEventListener("change", draw);
document.getElementById("as-here").addEventListener("click", () => {
  for (const c of cells()) c.value = here[c.dataset.variant] > 0 ? here[c.dataset.variant] : "";
  for (const rack of document.querySelectorAll(".rack")) addUp(rack);
  draw();
});
pdf.addEventListener("click", (event) => {
  if (!right()) event.preventDefault();
  else if (wishes().length === 0) { event.preventDefault(); showRefusal(box, { message: "No label is chosen yet.", want: "a number in the rack" }); }
});
document.getElementById("print").addEventListener("click", guarded(async () => {
  if (!right()) return;
  try {
    const done = await ask("POST", "/api/v1/labels", request());
    showRefusal(box, null);
    say(`${plural(done.labels, "label", "labels")} printed on ${plural(done.pages, "page", "pages")}.`);
  } catch (refusal) { showRefusal(box, refusal); }
}));
onScan(async (text) => {
  const found = await ask("GET", "/api/v1/find?q=" + encodeURIComponent(text));
  let cell = found.length === 1 && cells().find((c) => c.dataset.variant === String(found[0].id));
  const table = document.querySelector("#wanted tbody:not(.rack tbody)");
  if (!cell && found.length === 1 && found[0].kind === "variant" && table) { // a list takes what is scanned
    const f = found[0];
    cell = make("input", { className: "form-control num short wish", value: "0", inputMode: "numeric", "aria-label": `${f.name} ${f.detail || ""}, labels` });
    cell.dataset.variant = f.id;
    table.append(make("tr", {}, make("td", {}, f.name, " ", make("small", { className: "quiet", textContent: f.detail || "" })), make("td", { className: "mono small", textContent: f.code }), make("td", { className: "num" }, cell)));
  }
  if (!cell) { say(`${text} is not here.`, null, true); return; }
  const before = whole(cell.value);
  if (typeof before !== "number") { say(`“${cell.value}” is not a whole number of labels.`, null, true); cell.focus(); return; }
  cell.value = before + 1;
  say(`${cell.getAttribute("aria-label")}: ${cell.value}.`);
  const rack = cell.closest(".rack");
  if (rack) addUp(rack);
  draw();
});
cells()[0]?.focus();
for (const rack of document.querySelectorAll(".rack")) addUp(rack);
draw();
