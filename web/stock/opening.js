// Opening stock: lines are kept on this device until they are posted; the server
// works out what each comes to, by the same rule that posts it.
import { ask, guarded, newKey, part, showRefusal } from "./api.js";
import { redraw } from "./form.js";
import { fillFrom, linesOf } from "./goodslines.js";
import { offer, onScan, say } from "./scanline.js";
import { settleTab } from "./rack.js";

const form = document.getElementById("opening");
const holder = document.getElementById("lines");
const rackHolder = document.getElementById("deliver-rack");
const box = document.getElementById("form-error");
const kept = "opening-stock";
let key = newKey();

const lines = () => linesOf(holder);
const head = () => ({ branch_id: Number(form.elements.branch_id.value), shelf_id: Number(form.elements.shelf_id.value) });
const keep = (list) => localStorage.setItem(kept, JSON.stringify({ ...head(), lines: list }));

/** Draws these lines, worked out, and keeps them. */
async function draw(list) {
  redraw(holder, await part("/stock/opening/lines", { lines: list }));
  keep(list);
}
let turn = Promise.resolve();
function change(work) {
  turn = turn.then(async () => {
    const list = lines();
    work?.(list);
    await draw(list);
    showRefusal(box, null, form);
  }).catch((refusal) => showRefusal(box, refusal, form));
  return turn;
}

/** Offers the shelves of the branch that is chosen. */
function shelvesOf() {
  let first = null;
  for (const option of form.elements.shelf_id.options) {
    option.hidden = option.disabled = option.dataset.branch !== form.elements.branch_id.value;
    if (!option.hidden && !first) first = option;
  }
  if (form.elements.shelf_id.selectedOptions[0]?.disabled !== false && first) first.selected = true;
}

async function openRack(product) {
  rackHolder.innerHTML = await part(`/stock/opening/rack/${product}`, { lines: lines() });
  for (const rack of rackHolder.querySelectorAll(".rack")) settleTab(rack);
  (rackHolder.querySelector("#rack-cost:placeholder-shown") || rackHolder.querySelector(".rack-cell"))?.focus();
}
fillFrom(rackHolder, change);
holder.addEventListener("change", () => change());
holder.addEventListener("click", (event) => {
  const row = event.target.closest("[data-line]");
  if (!row) return;
  const at = [...holder.querySelectorAll("[data-line]")].indexOf(row);
  if (event.target.closest("[data-drop]")) change((list) => list.splice(at, 1));
  if (event.target.closest("[data-lot]")) change((list) => list.splice(at + 1, 0, { ...list[at], quantity: "", lot: "", expiry: "" }));
});
form.addEventListener("change", () => { shelvesOf(); keep(lines()); });
form.addEventListener("submit", (event) => event.preventDefault());

onScan(async (text) => {
  await turn;
  const before = lines();
  const scanned = await ask("POST", "/api/v1/opening-stock/scan", { code: text, lines: before });
  if (scanned.pick) { await openRack(scanned.pick.id); return; }
  if (scanned.offers) { offer(scanned.offers.filter((f) => f.kind === "product"), (f) => openRack(f.id)); return; }
  await draw(scanned.lines);
  say(scanned.said, () => draw(before));
}, true);

document.getElementById("post").addEventListener("click", guarded(async () => {
  await turn;
  try {
    const done = await ask("POST", "/api/v1/opening-stock", { ...head(), lines: lines() }, key);
    localStorage.removeItem(kept);
    location.href = "/documents/" + done.number;
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal, holder);
  }
}));

const last = JSON.parse(localStorage.getItem(kept) || "null");
if (last) { form.elements.branch_id.value = last.branch_id; form.elements.shelf_id.value = last.shelf_id; }
shelvesOf();
await draw(last?.lines ?? []);
