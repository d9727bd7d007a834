// A purchase order: a draft that is typed line by line, each kept by itself so that two
// people can work on it; once it is placed, the rack of what is here.
import { ask, guarded, newKey, part, showRefusal, onSubmit } from "./api.js";
import { redraw, sent, values } from "./form.js";
import { offer, onScan, say } from "./scanline.js";
import { settleTab } from "./rack.js";

const page = document.getElementById("order");
const id = page.dataset.id;
const box = document.getElementById("form-error");
const tag = document.getElementById("tag-body");
const holder = document.getElementById("lines");
const head = document.getElementById("head");

const terms = tag.innerHTML;
let wanted = 0;
async function showLine(variant) {
  wanted = variant;
  if (!variant) { tag.innerHTML = terms; return; }
  try {
    const html = await part(`/buying/orders/${id}/tag/${variant}`);
    if (wanted === variant) tag.innerHTML = html;
  } catch { if (wanted === variant) tag.innerHTML = terms; }
}
document.addEventListener("rack-choose", (event) => showLine(event.detail.variant));
document.addEventListener("rack-take", (event) => { location.href = "/stock/" + event.detail.variant; });
page.addEventListener("focusin", (event) => {
  const row = event.target.closest("tr[data-variant]");
  if (row && !holder?.contains(row)) showLine(Number(row.dataset.variant));
});
tag.addEventListener("click", (event) => {
  const off = event.target.closest("[data-call-off]");
  if (off) callOff([Number(off.dataset.callOff)]);
  const open = event.target.closest("[data-open]");
  if (open) openRack(open.dataset.open);
});

async function callOff(variants) {
  try {
    await ask("POST", `/api/v1/orders/${id}/call-off`, { variant_ids: variants });
    location.reload();
  } catch (refusal) { showRefusal(box, refusal); }
}
document.getElementById("call-off")?.addEventListener("click", guarded(() => callOff([])));
document.getElementById("copy")?.addEventListener("click", guarded(async () => {
  try {
    const made = await ask("POST", `/api/v1/orders/${id}/copy`);
    location.href = "/buying/orders/" + made.id;
  } catch (refusal) { showRefusal(box, refusal); }
}));

const send = document.getElementById("send");
if (send) {
  let key = newKey();
  onSubmit(send, async () => {
    const error = send.querySelector("[data-error]");
    try {
      await ask("POST", `/api/v1/orders/${id}/send`, values(send), key);
      location.href = "/buying/orders/" + id;
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(error, refusal, send);
    }
  });
}

// What follows is of an order that can be typed.
const saved = document.getElementById("saved");
const rackHolder = document.getElementById("order-rack");
let turn = Promise.resolve();
let waiting = 0;

const shownPage = new URLSearchParams(location.search).get("page") || "1";
/** Draws the lines as they are kept: the page of them that is open, or the one that goods are on. */
async function show(on) {
  redraw(holder, await part(`/buying/orders/${id}/lines?change=1&page=${shownPage}${on ? "&on=" + on : ""}`));
  const sums = document.getElementById("order-sums");
  if (sums) sums.innerHTML = await part(`/buying/orders/${id}/sums`);
}

/** Keeps what work sends, one after another, and draws the lines again. */
function keep(work) {
  waiting++;
  saved.textContent = "keeping …";
  turn = turn.then(async () => {
    let done = false;
    try {
      const ref = await work();
      if (ref?.revision) head.dataset.revision = ref.revision;
      await show();
      await learnAgain();
      showRefusal(box, null, document);
      done = true;
    } catch (refusal) {
      if (refusal.status === 409) await show().catch(() => { /* what was refused is said */ });
      showRefusal(box, refusal, document);
    }
    if (--waiting === 0) saved.textContent = done ? "kept" : "the last change is not kept";
    return done;
  });
  return turn;
}

/** The line of a row as it is typed. */
function lineOf(row) {
  const text = (name) => sent(row.querySelector(`[data-f="${name}"]`));
  const pack = row.querySelector('[data-f="pack_id"]');
  return {
    variant_id: Number(row.dataset.variant), revision: Number(row.dataset.revision), quantity: text("quantity"), price: text("price"),
    discount: text("discount"), part_number: text("part_number"), ...(pack ? { pack_id: Number(sent(pack)) } : {}),
  };
}
/** Sends lines as they are when their turn comes: what came before has made their revisions new. */
const put = (lines) => keep(() => ask("PUT", `/api/v1/orders/${id}/lines`, { lines: lines() }));
/** The revision of a line, which may stand on another page of them: the rack knows it, too. */
const revisionOf = (variant) => Number(rowOf(variant)?.dataset.revision || revisions[variant] || 0);
let revisions = {};
function learnRack(from) { revisions = JSON.parse(from.querySelector("#rack-lines")?.dataset.revisions || "{}"); }
/** Reads the revisions of the rack's lines anew, once some were kept. */
async function learnAgain() {
  const product = document.getElementById("rack-lines")?.dataset.product;
  if (!product) return;
  const fresh = document.createElement("template");
  fresh.innerHTML = await part(`/buying/orders/${id}/rack/${product}`);
  learnRack(fresh.content);
}
const rowOf = (variant) => holder.querySelector(`tr[data-variant="${variant}"]`);
const putRow = (variant, change) => put(() => [rowOf(variant)].filter(Boolean).map((row) => ({ ...lineOf(row), ...change })));

async function openRack(product) {
  if (!rackHolder) return;
  await turn;
  rackHolder.innerHTML = await part(`/buying/orders/${id}/rack/${product}`);
  learnRack(rackHolder);
  for (const rack of rackHolder.querySelectorAll(".rack")) settleTab(rack);
  rackHolder.querySelector(".rack-cell")?.focus();
}

if (holder) {
  holder.addEventListener("change", (event) => {
    const row = event.target.closest("[data-line]");
    if (row) putRow(row.dataset.variant);
  });
  holder.addEventListener("click", (event) => {
    const button = event.target.closest("[data-drop]");
    if (!button) return;
    putRow(button.closest("[data-line]").dataset.variant, { quantity: "" });
  });
  head.addEventListener("change", () => keep(() => ask("PUT", `/api/v1/orders/${id}`, { ...values(head), revision: Number(head.dataset.revision) })));
  head.addEventListener("submit", (event) => event.preventDefault());
  const asked = () => ({ price: document.getElementById("rack-price").value.trim(), discount: document.getElementById("rack-discount").value.trim() });
  rackHolder.addEventListener("rack-set", (event) => {
    const terms = asked();
    put(() => event.detail.cells.map((c) => ({ variant_id: c.variant, quantity: c.value, ...terms, revision: revisionOf(c.variant) })));
  });
  rackHolder.addEventListener("change", (event) => {
    if (!["rack-price", "rack-discount"].includes(event.target.id)) return;
    const variants = [...rackHolder.querySelectorAll(".rack-cell")].map((c) => c.dataset.variant).filter(rowOf);
    const terms = asked();
    if (variants.length) put(() => variants.map(rowOf).filter(Boolean).map((row) => ({ ...lineOf(row), ...terms })));
  });
  onScan(async (text) => {
    await turn;
    const scanned = await ask("POST", `/api/v1/orders/${id}/scan`, { code: text });
    if (scanned.pick) { await openRack(scanned.pick.id); return; }
    if (scanned.offers) { offer(scanned.offers.filter((f) => f.kind === "product"), (f) => openRack(f.id)); return; }
    head.dataset.revision = scanned.revision;
    await show(scanned.variant_id);
    await learnAgain();
    say(scanned.said);
  }, true);
  let key = newKey();
  document.getElementById("place")?.addEventListener("click", guarded(async () => {
    document.activeElement?.blur?.();
    await turn;
    try {
      await ask("POST", `/api/v1/orders/${id}/place`, undefined, key);
      location.href = "/buying/orders/" + id;
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, document);
    }
  }));
  document.getElementById("drop")?.addEventListener("click", guarded(async () => {
    try {
      await ask("DELETE", `/api/v1/orders/${id}`);
      location.href = "/buying/orders";
    } catch (refusal) { showRefusal(box, refusal); }
  }));
  // what another person orders meanwhile shows by itself
  setInterval(async () => {
    if (document.hidden || waiting || holder.contains(document.activeElement)) return;
    const order = await ask("GET", `/api/v1/orders/${id}`).catch(() => null);
    if (order && order.order.revision !== Number(head.dataset.revision) && !waiting) {
      head.dataset.revision = order.order.revision;
      await show();
    }
  }, 4000);
} else {
  document.querySelector(".rack .rack-cell")?.focus();
}
