// A delivery is kept as a draft with every change; the server computes what each
// line comes to, by the same rule that posts it.
import { ask, guarded, newKey, part, showRefusal } from "./api.js";
import { redraw, values } from "./form.js";
import { fillFrom, linesOf } from "./goodslines.js";
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

/** Shows the lines as they are kept. */
async function show() {
  redraw(holder, await part(`/buying/${id}/lines`));
  known = JSON.stringify(lines());
}

/** Keeps the draft with these lines and draws them again. */
async function keep(list) {
  const head = values(form);
  head.supplier_id = Number(head.supplier_id);
  head.branch_id = Number(head.branch_id);
  if (!head.supplier_id) {
    showRefusal(box, { message: "Choose the supplier first.", field: "supplier_id" }, form);
    return false;
  }
  try {
    const ref = await ask(id ? "PUT" : "POST", id ? `/api/v1/deliveries/${id}` : "/api/v1/deliveries", { ...head, revision, lines: list });
    revision = ref.revision;
    if (!id) { id = ref.id; history.replaceState(null, "", `/buying/${id}`); form.dataset.id = id; }
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
    const kept = await keep(list);
    if (--waiting === 0) saved.textContent = kept ? "draft, kept" : "the last change is not kept";
    return kept;
  });
  return turn;
}

async function openRack(product) {
  if (!id && !(await save())) return;
  rackHolder.innerHTML = await part(`/buying/${id}/rack/${product}`);
  rackHolder.dataset.product = product;
  for (const rack of rackHolder.querySelectorAll(".rack")) settleTab(rack);
  (rackHolder.querySelector("#rack-cost:placeholder-shown") || rackHolder.querySelector(".rack-cell"))?.focus();
}

fillFrom(rackHolder, save);
holder.addEventListener("change", () => save());
holder.addEventListener("click", (event) => {
  const button = event.target.closest("[data-drop]");
  if (!button) return;
  button.closest("[data-line]").querySelector('[data-f="quantity"]').value = "";
  save();
});
form.addEventListener("change", () => { if (form.elements.supplier_id.value) save(); });
form.addEventListener("submit", (event) => event.preventDefault());

onScan(async (text) => {
  await turn;
  // what is typed goes before what is scanned
  if ((!id || JSON.stringify(lines()) !== known) && !(await save())) return;
  const before = lines();
  const scanned = await ask("POST", `/api/v1/deliveries/${id}/scan`, { code: text });
  if (scanned.pick) { await openRack(scanned.pick.id); return; }
  if (scanned.offers) { offer(scanned.offers.filter((f) => f.kind === "product"), (f) => openRack(f.id)); return; }
  revision = scanned.revision;
  await show();
  say(scanned.said, () => save((list) => list.splice(0, list.length, ...before)));
}, true);

document.getElementById("post").addEventListener("click", guarded(async () => {
  if (!(await save())) return;
  try {
    const done = await ask("POST", `/api/v1/deliveries/${id}/post`, undefined, key);
    location.href = "/documents/" + done.number;
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal, document);
  }
}));
document.getElementById("drop")?.addEventListener("click", guarded(async () => {
  try {
    await ask("DELETE", `/api/v1/deliveries/${id}`);
    location.href = "/buying";
  } catch (refusal) { showRefusal(box, refusal, document); }
}));
