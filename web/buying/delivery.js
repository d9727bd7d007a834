// A delivery is kept as a draft with every change; the server computes what each
// line comes to, by the same rule that posts it.
import { ask, guarded, make, newKey, part, showRefusal } from "./api.js";
import { redraw, values } from "./form.js";
import { fillFrom, linesOf } from "./goodslines.js";
import { makesGoods, newGoods } from "./new_goods.js";
import { offer, onScan, say } from "./scanline.js";
import { settleTab } from "./rack.js";

const form = document.getElementById("delivery");
const holder = document.getElementById("lines");
const rackHolder = document.getElementById("deliver-rack");
const box = document.getElementById("form-error");
const saved = document.getElementById("saved");
let id = Number(form.dataset.id);
let revision = Number(form.dataset.revision);
let known = "";
let key = newKey();

const lines = () => linesOf(holder);
known = JSON.stringify(lines());
const orders = () => [...holder.querySelectorAll("[data-order]:checked")].map((box) => Number(box.dataset.order));
const paid = document.getElementById("paid_from");
const off = new Set(); // of what has not come, what is called off

/** Shows the lines as they are kept. */
async function show() {
  redraw(holder, await part(id ? `/buying/${id}/lines` : `/buying/new/lines?supplier=${form.elements.supplier_id.value}`));
  const against = holder.querySelector("#against");
  if (against?.querySelector(":checked")) form.elements.supplier_id.value = against.dataset.supplier;
  for (const box of holder.querySelectorAll("[data-off]")) box.checked = off.has(Number(box.dataset.off));
  known = JSON.stringify(lines());
}

/** Remembers the draft that was just kept. */
function kept(ref) {
  revision = ref.revision;
  if (!waiting) saved.textContent = "draft, kept";
  if (ref.remark) say("▾ " + ref.remark, null, true);
  if (!id) { id = ref.id; history.replaceState(null, "", `/buying/${id}`); form.dataset.id = id; }
}

/** Keeps the draft with these lines and draws them again. There is none before there is
 * something in it. */
async function keep(list) {
  if (!id && !orders().length && !list.some((l) => l.quantity.trim())) return true;
  try {
    kept(await ask(id ? "PUT" : "POST", id ? `/api/v1/deliveries/${id}` : "/api/v1/deliveries", { ...values(form), revision, order_ids: orders(), lines: list }));
    await show();
    showRefusal(box, null, document);
    return true;
  } catch (refusal) {
    showRefusal(box, refusal, document);
    return false;
  }
}
let turn = Promise.resolve();
let waiting = 0;
function save(change) {
  waiting++;
  saved.textContent = "keeping …";
  turn = turn.then(async () => {
    const list = lines();
    change?.(list);
    const done = await keep(list);
    if (--waiting === 0) saved.textContent = !done ? "the last change is not kept" : id ? "draft, kept" : "nothing kept yet";
    return done;
  });
  return turn;
}

async function openRack(product) {
  rackHolder.innerHTML = await part(`/buying/${id || "new"}/rack/${product}`);
  rackHolder.dataset.product = product;
  for (const rack of rackHolder.querySelectorAll(".rack")) settleTab(rack);
  (rackHolder.querySelector("#rack-cost:placeholder-shown") || rackHolder.querySelector(".rack-cell"))?.focus();
}

fillFrom(rackHolder, save);
holder.addEventListener("change", (event) => {
  if (event.target.dataset.off) {
    if (event.target.checked) off.add(Number(event.target.dataset.off)); else off.delete(Number(event.target.dataset.off));
    return;
  }
  if (event.target.dataset.f === "cost") event.target.closest("[data-line]").querySelector('[data-f="total"]').value = "";
  save();
});
holder.addEventListener("click", (event) => {
  if (event.target.closest("#fill")) { change("fill"); return; }
  const button = event.target.closest("[data-drop]");
  if (!button) return;
  button.closest("[data-line]").querySelector('[data-f="quantity"]').value = "";
  save();
});
/** Has the server change the draft's lines. */
const change = guarded(async (how) => {
  if (!(await save()) || !id) return;
  try {
    kept(await ask("POST", `/api/v1/deliveries/${id}/${how}`));
    await show();
  } catch (refusal) { showRefusal(box, refusal, document); }
});
document.addEventListener("scan-empty", () => { if (holder.querySelector(".proposed")) change("take"); });
form.addEventListener("change", async (event) => {
  if (event.target.name === "supplier_id") { // orders are of one supplier
    for (const box of holder.querySelectorAll("[data-order]")) box.checked = false;
    if (!id && !lines().length) { await show(); return; }
  }
  save();
});
form.addEventListener("submit", (event) => event.preventDefault());

/** What nobody knows can be made without losing the delivery: it is kept, and the new
 * product leads back to it. */
function unknown(text, refusal) {
  const back = encodeURIComponent(id ? `/buying/${id}` : "/buying/new");
  const whole = `/catalog/new?barcode=${encodeURIComponent(text)}&back=${back}`;
  refusal.more = newGoods(text, whole) || "";
}
const head = () => ({ ...values(form), order_ids: orders() });
makesGoods(head, () => (id ? `/api/v1/deliveries/${id}/goods` : "/api/v1/deliveries/goods"), async (made) => { kept(made); await show(); });

let shelf = 0; // that was scanned: what comes next goes there
let after = 0; // the goods that were scanned last
onScan(async (text) => {
  await turn;
  // what is typed goes before what is scanned
  if (JSON.stringify(lines()) !== known && !(await save())) return;
  const before = lines();
  let scanned;
  try {
    scanned = await ask("POST", `/api/v1/deliveries/${id ? id + "/" : ""}scan`, { code: text, head: head(), shelf_id: shelf, after_variant_id: after });
  } catch (refusal) {
    if (refusal.status === 404) unknown(text, refusal);
    throw refusal;
  }
  if (scanned.pick) { await openRack(scanned.pick.id); return; }
  if (scanned.offers) { offer(scanned.offers.filter((f) => f.kind === "product"), (f) => openRack(f.id)); return; }
  after = scanned.variant_id || 0;
  if (scanned.shelf) { shelf = scanned.shelf.id; say(scanned.said); return; }
  kept(scanned);
  await show();
  say((scanned.verdict ? "▾ " : "") + scanned.said, () => save((list) => list.splice(0, list.length, ...before)), Boolean(scanned.verdict));
}, true);

let more = false;
document.getElementById("post").addEventListener("click", guarded(async () => {
  if (!(await save())) return;
  if (!id) {
    showRefusal(box, { message: "Nothing is in it yet. Scan what came, or type a product's name on the scan line." }, form);
    return;
  }
  try {
    const done = await ask("POST", `/api/v1/deliveries/${id}/post`, { call_off_variant_ids: [...off], paid_from: paid?.value || "", register_id: Number(paid?.selectedOptions[0].dataset.register || 0), more_than_ordered: more }, key);
    location.href = "/documents/" + done.number;
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    more = refusal.field === "more_than_ordered"; // said, and pressed again
    showRefusal(box, refusal, document);
  }
}));
document.getElementById("drop")?.addEventListener("click", guarded(async () => {
  try {
    await ask("DELETE", `/api/v1/deliveries/${id}`);
    location.href = "/buying";
  } catch (refusal) { showRefusal(box, refusal, document); }
}));
if (!id && orders().length) save();
