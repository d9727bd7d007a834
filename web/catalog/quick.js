// Quick entry: one thing after another by keyboard, the price computed by the
// server while the cost is typed.
import { ask, guarded, make, newKey, showRefusal, upload } from "./api.js";
import { values } from "./form.js";
import { figure, typed } from "./money.js";
import { onScan } from "./scanline.js";

const form = document.getElementById("quick");
const box = document.getElementById("form-error");
const line = document.getElementById("quick-price");
const added = document.getElementById("added");
const labels = document.getElementById("quick-labels");
const pictured = form.querySelector("[data-picture]");
const variants = [];
let key = newKey();
let suggestion = null;

const kept = JSON.parse(localStorage.getItem("last-product") || "{}");
for (const name of ["category", "supplier"]) form.elements[name].value = kept[name] || "";

let turn = 0;
let waiting;
async function suggest() {
  const mine = ++turn;
  const { category, supplier, tax_class_id, cost, price } = values(form);
  try {
    const s = await ask("POST", "/api/v1/prices/suggest", { category, supplier, tax_class_id, cost, price });
    if (mine !== turn) return;
    suggestion = s;
    form.elements.price.placeholder = s.by_rule ? typed(s.price) : "";
    const words = [];
    if (s.category) words.push((s.new_category ? "makes " : "in ") + s.category);
    if (s.landed) words.push(`landed ${figure(s.landed)}`);
    if (s.has_price) words.push(figure(s.price) + (s.by_rule ? ` by ${s.rule}, from ${s.rule_from}` : ""));
    if (s.margin) words.push(`margin ${s.margin}`, `markup ${s.markup}`);
    if (s.under_cost) words.push("▾ under cost");
    if (s.marked) words.push("▾ the ending could not be had below");
    words.push(`tax ${s.tax} % from ${s.tax_from}`);
    line.textContent = words.join(" · ");
    line.classList.toggle("low", s.under_cost);
    showRefusal(box, null, form);
  } catch (refusal) { if (mine === turn) { line.textContent = refusal.message; } }
}
form.addEventListener("input", () => { clearTimeout(waiting); waiting = setTimeout(suggest, 120); });
onScan(async (text) => { form.elements.barcode.value = text; form.elements.barcode.focus(); });

const add = guarded(async () => {
  showRefusal(box, null, form);
  const { each, ...facts } = values(form);
  const body = { ...facts, tracking: "counted", on_hand: { each } };
  try {
    const file = pictured.files[0];
    if (file) body.picture_ids = [(await upload(`/api/v1/pictures?name=${encodeURIComponent(file.name)}`, file)).id];
    const made = await ask("POST", "/api/v1/products", body, key);
    localStorage.setItem("last-product", JSON.stringify({ category: body.category, supplier: body.supplier }));
    const v = made.variants[0];
    variants.push(v.id);
    if (variants.length > 10) variants.shift();
    const s = suggestion || {};
    added.prepend(make("tr", {}, make("td", {}, make("a", { href: "/catalog/" + made.id, textContent: made.name })), make("td", { className: "mono", textContent: v.sku }), make("td", { className: "mono", textContent: v.barcode }),
      make("td", { className: "small", textContent: s.category || body.category }), make("td", { className: "num", textContent: body.cost || "–" }), make("td", { className: "num", textContent: s.has_price ? figure(s.price) : body.price || "–" }), make("td", { className: "num", textContent: s.margin || "–" }), make("td", { className: "num", textContent: each || "0" })));
    while (added.children.length > 10) added.lastChild.remove();
    document.getElementById("none-yet").hidden = true;
    labels.hidden = false;
    labels.href = "/labels?variants=" + variants.join(",");
    for (const name of ["name", "supplier_part", "cost", "price", "each", "barcode"]) form.elements[name].value = "";
    pictured.value = "";
    form.elements.name.focus();
    line.textContent = "";
  } catch (refusal) {
    showRefusal(box, refusal, form);
    if (refusal.lost) return;
  }
  key = newKey();
});
form.addEventListener("submit", async (event) => { event.preventDefault(); clearTimeout(waiting); await suggest(); add(); });
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey && event.key.toLowerCase() === "l" && !labels.hidden) { event.preventDefault(); location.href = labels.href; }
});
suggest();
