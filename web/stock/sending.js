// A sending between branches: what is scanned is packed, or taken off the rope where it arrives.
import { ask, guarded, newKey, onSubmit, part, showRefusal } from "./api.js";
import { redraw, values } from "./form.js";
import { offer, onScan, say } from "./scanline.js";
import { settleTab } from "./rack.js";

const page = document.getElementById("sending");
const id = page.dataset.id;
const body = document.getElementById("body");
const tag = document.getElementById("tag-body");
const box = document.getElementById("form-error");
const rack = document.getElementById("sending-rack");
const arrives = page.dataset.arrives === "yes";
const path = "/api/v1/sendings/" + id;
let line = 0;
let keys = {};

const head = document.getElementById("head-change");
if (head) onSubmit(head, async () => {
  showRefusal(box, null, head);
  try { await ask("PUT", path, values(head)); location.reload(); } catch (refusal) { showRefusal(box, refusal, head); }
});

async function show(which) {
  line = which;
  const html = await part(`/stock/sendings/${id}/tag/${which || 0}`);
  if (which === line) tag.innerHTML = html;
  for (const at of body.querySelectorAll(".hanger[data-line]")) at.classList.toggle("on", Number(at.dataset.line) === line);
  for (const row of body.querySelectorAll("tr[data-line]")) row.classList.toggle("on", Number(row.dataset.line) === line);
}
async function draw() {
  redraw(body, await part(`/stock/sendings/${id}/body`));
  own.clear();
  await show(line);
}
/** Does a deed under a key that stays until it is answered, then draws the page anew. */
const deed = (name, work, then) => guarded(async (...args) => {
  keys[name] ||= newKey();
  try {
    const done = await work(keys[name], ...args);
    keys[name] = "";
    showRefusal(box, null, body);
    await then(done);
  } catch (refusal) {
    if (!refusal.lost) keys[name] = "";
    showRefusal(box, refusal, body);
  }
});
const again = () => location.reload();
const on = (name, work) => document.getElementById(name)?.addEventListener("click", work);

on("pack", deed("pack", (key) => ask("POST", path + "/pack", undefined, key), again));
on("send-off", deed("send", (key) => ask("POST", path + "/send", undefined, key), again));
on("drop", deed("drop", (key) => ask("POST", path + "/drop", undefined, key), again));
const arrive = (all) => deed("arrive", (key) => ask("POST", path + "/arrive", { shelf_id: Number(document.getElementById("shelf")?.value || 0), all }, key), again);
on("all", arrive(true));
on("take-in", arrive(false));
document.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || !(event.ctrlKey || event.metaKey)) return;
  event.preventDefault();
  document.activeElement?.blur?.();
  (document.getElementById("send-off") || document.getElementById("take-in"))?.click();
});

let turn = Promise.resolve();
// Fields that were changed here since the page was drawn: what they were then is not what they are now.
const own = new Set();
/** Puts goods in, one after another; one that is refused does not keep the next from being sent. */
function put(input) {
  const done = turn.then(() => ask("POST", path + "/lines", own.has(input.of) ? { ...input.put, was: "" } : input.put)).catch((refusal) => { showRefusal(box, refusal); throw refusal; });
  turn = done.then(() => own.add(input.of), () => { /* it is shown */ });
  return done;
}
body.addEventListener("change", async (event) => {
  const row = event.target.closest("tr[data-line]");
  if (!row) return;
  const { value, dataset } = event.target;
  try {
    if ("put" in dataset) await put({ of: event.target.name, put: { variant_id: Number(row.dataset.variant), lot_id: Number(row.dataset.lot), condition: row.dataset.condition, quantity: value || "0", was: dataset.was } });
    else if ("here" in dataset) await ask("POST", path + "/here", { line_id: Number(row.dataset.line), quantity: value || "0" });
    else return;
    showRefusal(box, null, body);
    await draw();
  } catch (refusal) {
    showRefusal(box, refusal);
    event.target.setAttribute("aria-invalid", "true");
    event.target.focus();
  }
});
body.addEventListener("click", async (event) => {
  const shown = event.target.closest("[data-show], .hanger[data-line]");
  if (shown) { await show(Number(shown.dataset.show || shown.dataset.line)); return; }
  const row = event.target.closest("[data-drop]")?.closest("tr");
  if (!row) return;
  try {
    await put({ put: { variant_id: Number(row.dataset.variant), lot_id: Number(row.dataset.lot), condition: row.dataset.condition, quantity: "", serials: "" } });
    await draw();
  } catch { /* it is shown */ }
});
body.addEventListener("focusin", (event) => {
  const row = event.target.closest("tr[data-line]");
  if (row && Number(row.dataset.line) !== line) show(Number(row.dataset.line));
});

async function openRack(product) {
  rack.innerHTML = await part(`/stock/sendings/${id}/rack/${product}`);
  for (const r of rack.querySelectorAll(".rack")) settleTab(r);
  rack.querySelector(".rack-cell")?.focus();
}
rack.addEventListener("rack-set", async (event) => {
  try {
    for (const c of event.detail.cells) await put({ put: { variant_id: c.variant, quantity: c.value || "0" } });
    showRefusal(box, null);
    await draw();
  } catch { /* it is shown */ }
});

let key = newKey();
tag.addEventListener("submit", async (event) => {
  const form = event.target.closest("[data-settle]");
  if (!form) return;
  event.preventDefault();
  const error = form.querySelector("[data-error]");
  try {
    const done = await ask("POST", path + "/settle", { line_id: Number(form.dataset.settle), serials: "", ...values(form) }, key);
    key = newKey();
    say(`✓ Settled, ${done.number}.`);
    location.reload();
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(error, refusal, form);
  }
});

if (arrives || page.dataset.edits === "yes") onScan(async (text) => {
  await turn;
  const done = await ask("POST", path + (arrives ? "/here" : "/lines"), { code: text });
  if (done.pick && !arrives) { await openRack(done.pick.id); return; }
  if (done.pick) { say(`${done.pick.name} has variants: scan the label of one.`, null, true); return; }
  if (done.offers?.length) { offer(done.offers.filter((f) => f.kind === "product"), (f) => openRack(f.id)); return; }
  line = done.line_id;
  await draw();
  say(done.said);
}, true);
await show(0);
