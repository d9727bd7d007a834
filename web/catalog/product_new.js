// Making a product: the rack follows what is typed. What values, prices and SKUs
// come to is asked from the server.
import { ask, guarded, newKey, part, showRefusal, upload } from "./api.js";
import { values, watched } from "./form.js";
import { settleTab } from "./rack.js";
import { onScan, say } from "./scanline.js";

const form = document.getElementById("new-product");
const box = document.getElementById("form-error");
const holder = document.getElementById("rack");
const priceLine = document.getElementById("price-line");
const leftOut = new Map(); // key of a choice → choice
const typed = {}; // view → key of a choice → { choice, text }
for (const name of ["price", "cost", "level", "barcode", "quantity", "worth", "lot", "expiry", "serials"]) typed[name] = new Map();
let view = "made";
let key = newKey();

const keyOf = (choice) => choice.join("\u001f");
const usual = ["Colour", "Size", "Length"];

// What was chosen for the last product is proposed for the next.
const kept = JSON.parse(localStorage.getItem("last-product") || "{}");
for (const name of ["category", "supplier"]) form.elements[name].value = kept[name] || "";

// A page that met a code that nobody knows sends it here, and gets one back.
const asked = new URLSearchParams(location.search);
const back = asked.get("back")?.match(/^\/[a-z][a-z0-9/-]*$/)?.[0] || "";
if (asked.get("barcode")) {
  typed.barcode.set(keyOf([]), { choice: [], text: asked.get("barcode") });
  say(`It will have the barcode ${asked.get("barcode")}. If it has colours or sizes, scan that into its cell.`);
}
const watch = watched(form);

function axes() {
  const list = [];
  for (let n = 0; n < 3; n++) {
    const name = form.querySelector(`[data-axis="${n}"]`).value.trim() || usual[n];
    const text = form.querySelector(`[data-values="${n}"]`).value.trim();
    if (text) list.push({ name, text });
  }
  return list;
}

/** What is on hand, from the fields and from the cells. */
function onHand(body) {
  const cells = new Map();
  for (const view of ["quantity", "worth", "lot", "expiry", "serials"]) {
    for (const [key, { choice, text }] of typed[view]) cells.set(key, { ...cells.get(key), choice, [view]: text });
  }
  const stock = { cells: [...cells.values()] };
  for (const field of form.querySelectorAll("[data-on-hand]")) {
    stock[field.name] = body[field.name];
    delete body[field.name];
  }
  return stock;
}
function product() {
  const body = values(form);
  const stock = onHand(body);
  return { ...body, on_hand: stock, picture_ids: picture ? [picture] : [], axes: axes(), left_out: [...leftOut.values()], own_prices: [...typed.price.values()], own_costs: [...typed.cost.values()], own_levels: [...typed.level.values()], barcodes: [...typed.barcode.values()] };
}
/** Shows the views that products of this tracking have. */
function trackedViews() {
  const tracked = form.elements.tracking.value;
  for (const tab of form.querySelectorAll("[data-of]")) tab.hidden = tab.dataset.of !== tracked;
}

// A picture is kept as soon as it is chosen; the product takes it when it is made.
let picture = 0;
const seen = document.getElementById("picture-seen");
form.querySelector("[data-picture]").addEventListener("change", async (event) => {
  const file = event.target.files[0];
  picture = 0;
  seen.hidden = true;
  if (!file) return;
  try {
    picture = (await upload(`/api/v1/pictures?name=${encodeURIComponent(file.name)}`, file)).id;
    seen.src = `/pictures/${picture}?small=1`;
    seen.hidden = false;
    showRefusal(box, null, form);
  } catch (refusal) { event.target.value = ""; showRefusal(box, refusal, form); }
});

let drawn = 0;
async function draw(focusChoice) {
  const turn = ++drawn;
  try {
    const html = await part("/catalog/new/rack?view=" + view, product());
    if (turn !== drawn) return;
    focusChoice ||= holder.contains(document.activeElement) ? document.activeElement.dataset.choice : undefined;
    holder.innerHTML = html;
    const line = holder.querySelector("[data-price-line]");
    priceLine.textContent = line ? line.textContent : "";
    line?.remove();
    showRefusal(box, null, form);
    for (const rack of holder.querySelectorAll(".rack")) settleTab(rack);
    if (focusChoice) [...holder.querySelectorAll(".rack-cell")].find((c) => c.dataset.choice === focusChoice)?.focus();
  } catch (refusal) {
    if (turn === drawn) { showRefusal(box, refusal); box.hidden = false; }
  }
}
let waiting;
const soon = () => { clearTimeout(waiting); waiting = setTimeout(() => draw(), 160); };

form.addEventListener("input", (event) => {
  if (event.target.name === "tracking") trackedViews();
  if (!event.target.closest(".rack")) soon();
});
holder.addEventListener("rack-set", (event) => {
  for (const c of event.detail.cells) {
    if (view === "made") {
      if (c.made) leftOut.delete(keyOf(c.choice)); else leftOut.set(keyOf(c.choice), c.choice);
    } else if (c.value) typed[view].set(keyOf(c.choice), { choice: c.choice, text: c.value });
    else typed[view].delete(keyOf(c.choice));
  }
  draw(document.activeElement?.dataset?.choice);
});
holder.addEventListener("rack-figure", async (event) => { // a digit on a made cell begins its own price
  let typedKeys = event.detail.key;
  let ended = false;
  const gather = (e) => { // what is typed while the prices are hung is not lost
    if (/^[0-9.]$/.test(e.key)) typedKeys += e.key;
    else if (e.key === "Enter") ended = true;
    else return;
    e.preventDefault();
    e.stopImmediatePropagation();
  };
  document.addEventListener("keydown", gather, true);
  await show("price", event.detail.cell.dataset.choice);
  document.removeEventListener("keydown", gather, true);
  const cell = document.activeElement;
  if (!cell.matches("input.rack-cell")) return;
  cell.dataset.was = cell.value;
  cell.value = typedKeys;
  if (ended) cell.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
});
async function show(next, choice) {
  view = next;
  for (const tab of form.querySelectorAll("[data-view]")) tab.setAttribute("aria-selected", String(tab.dataset.view === view));
  await draw(choice);
}
for (const tab of form.querySelectorAll("[data-view]")) tab.addEventListener("click", () => show(tab.dataset.view));

// A scan while a cell is in focus gives that cell the maker's barcode.
let scanInto = null;
holder.addEventListener("focusin", (event) => { if (event.target.dataset.choice) scanInto = event.target.dataset.choice; });
onScan(async (text) => {
  const choice = scanInto && [...holder.querySelectorAll(".rack-cell")].some((c) => c.dataset.choice === scanInto) ? JSON.parse(scanInto) : null;
  if (!choice) { say("Choose the cell that the barcode is of, then scan.", null, true); return; }
  typed.barcode.set(keyOf(choice), { choice, text });
  say(`${choice.join(" · ") || "The product"} has ${text}.`, () => { typed.barcode.delete(keyOf(choice)); draw(); });
  await show("barcode", scanInto);
  const cells = [...holder.querySelectorAll(".rack-cell")];
  cells[cells.findIndex((c) => c.dataset.choice === JSON.stringify(choice)) + 1]?.focus();
});

const send = guarded(async (labels) => {
  if (document.activeElement?.matches("input.rack-cell")) document.activeElement.dispatchEvent(new Event("change", { bubbles: true }));
  showRefusal(box, null, form);
  try {
    const made = await ask("POST", "/api/v1/products", product(), key);
    localStorage.setItem("last-product", JSON.stringify({ category: form.elements.category.value, supplier: form.elements.supplier.value }));
    watch.sent();
    location.href = labels ? `/catalog/${made.id}/labels?each=1` : back || `/catalog/${made.id}?made=1`;
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal, form);
    const field = refusal.field && form.querySelector(`[name="${CSS.escape(refusal.field)}"]`);
    field?.closest("details")?.setAttribute("open", "");
    field?.focus();
  }
});
form.addEventListener("submit", (event) => { event.preventDefault(); send(false); });
document.getElementById("make-labels").addEventListener("click", () => send(true));
form.addEventListener("keydown", (event) => {
  if ((event.ctrlKey || event.metaKey) && event.key === "ArrowDown") { event.preventDefault(); send(true); return; }
  if (event.key === "Enter" && !event.ctrlKey && !event.metaKey && event.target.matches("input:not(.rack-cell), select")) { // goes on to the next field
    event.preventDefault();
    const fields = [...form.querySelectorAll("input, select, .rack-cell")].filter((f) => f.checkVisibility() && f.tabIndex === 0);
    fields[fields.indexOf(event.target) + 1]?.focus();
  }
});
addEventListener("pageshow", () => { trackedViews(); draw(); }); // also when one comes back: the fields are as they were left
draw();
