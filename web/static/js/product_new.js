// Making a product: the rack follows what is typed.
import { ask, guarded, make, newKey, part, showRefusal } from "./api.js";
import { values } from "./form.js";
import { settleTab } from "./rack.js";

const form = document.getElementById("new-product");
const box = document.getElementById("form-error");
const holder = document.getElementById("rack");
const leftOut = new Map(); // key of a choice → choice
const own = new Map(); // key of a choice → { choice, price }
const swatches = new Map(); // colour in small letters → #rrggbb
let view = "made";
let key = newKey();

const keyOf = (choice) => choice.join("\u001f");
const palette = { coral: "#D9604C", slate: "#54646F", kelp: "#3F6B4F", sand: "#D8C29A", foam: "#E8EDE9", tide: "#2F6F8F", navy: "#24364F", black: "#22282B", white: "#F6F5F0", red: "#B8382F", blue: "#2E5F9E", green: "#3C7A4B", yellow: "#E2B93B", orange: "#DB7A2C", grey: "#8A9195", pink: "#D98BA3", purple: "#6C4A86" };
const swatchOf = (name) => swatches.get(name.toLowerCase()) || palette[name.toLowerCase()] || "#9AA3A8";

function axes() {
  const list = [];
  for (let n = 0; n < 3; n++) {
    const name = form.querySelector(`[data-axis="${n}"]`).value.trim();
    const names = form.querySelector(`[data-values="${n}"]`).value.split(",").map((v) => v.trim()).filter(Boolean);
    if (names.length) list.push({ name: name || ["Colour", "Size", "Length"][n], values: names.map((v) => ({ name: v, swatch: /^colou?r$/i.test(name) ? swatchOf(v) : "" })) });
  }
  return list;
}

function product() {
  return { ...values(form), axes: axes(), left_out: [...leftOut.values()], own_prices: [...own.values()] };
}

function drawSwatches() {
  const first = axes()[0];
  const box = document.getElementById("swatches");
  const wanted = first && first.values.some((v) => v.swatch) ? first.values : [];
  box.replaceChildren(...wanted.map((v) => {
    const input = make("input", { type: "color", value: v.swatch });
    input.addEventListener("input", () => { swatches.set(v.name.toLowerCase(), input.value.toUpperCase()); draw(); });
    return make("label", {}, input, v.name);
  }));
}

let drawn = 0;
async function draw(focusChoice) {
  const turn = ++drawn;
  try {
    const html = await part("/catalog/new/rack?view=" + view, product());
    if (turn !== drawn) return;
    focusChoice ||= holder.contains(document.activeElement) ? document.activeElement.dataset.choice : undefined;
    holder.innerHTML = html;
    showRefusal(box, null, form);
    for (const rack of holder.querySelectorAll(".rack")) settleTab(rack);
    if (focusChoice) [...holder.querySelectorAll(".rack-cell")].find((c) => c.dataset.choice === focusChoice)?.focus();
  } catch (refusal) {
    if (turn === drawn) { showRefusal(box, refusal); box.hidden = false; }
  }
}
let waiting;
const soon = () => { clearTimeout(waiting); waiting = setTimeout(() => draw(), 180); };

form.addEventListener("input", (event) => {
  if (event.target.closest(".rack")) return;
  if (event.target.matches("[data-values], [data-axis]")) drawSwatches();
  soon();
});
holder.addEventListener("rack-set", (event) => {
  for (const c of event.detail.cells) {
    if (view === "made") {
      if (c.made) leftOut.delete(keyOf(c.choice)); else leftOut.set(keyOf(c.choice), c.choice);
    } else if (c.value) own.set(keyOf(c.choice), { choice: c.choice, price: c.value });
    else own.delete(keyOf(c.choice));
  }
  const focused = document.activeElement?.dataset?.choice;
  draw(focused);
});
holder.addEventListener("rack-figure", async (event) => { // a digit on a made cell begins its own price
  let typed = event.detail.key;
  let ended = false;
  const gather = (e) => { // what is typed while the prices are hung is not lost
    if (/^[0-9.]$/.test(e.key)) typed += e.key;
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
  cell.value = typed;
  if (ended) cell.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
});
async function show(next, choice) {
  view = next;
  for (const tab of form.querySelectorAll("[data-view]")) tab.setAttribute("aria-selected", String(tab.dataset.view === view));
  await draw(choice);
}
for (const tab of form.querySelectorAll("[data-view]")) tab.addEventListener("click", () => show(tab.dataset.view));

const send = guarded(async () => {
  document.activeElement?.matches("input.rack-cell") && document.activeElement.dispatchEvent(new Event("change", { bubbles: true }));
  showRefusal(box, null, form);
  try {
    const made = await ask("POST", "/api/v1/products", product(), key);
    location.href = "/catalog/" + made.id;
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal, form);
  }
});
form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
form.addEventListener("keydown", (event) => { // Enter in a field goes on to the next, it does not post
  if (event.key === "Enter" && !event.ctrlKey && !event.metaKey && event.target.matches("input:not(.rack-cell), select")) {
    event.preventDefault();
    const fields = [...form.querySelectorAll("input, select, .rack-cell")].filter((f) => f.offsetParent && (f.tabIndex === 0));
    fields[fields.indexOf(event.target) + 1]?.focus();
  }
});
draw();
