// A delivery taken in by hand, on a phone or any scanner that types. Each scan is a step that is kept on the
// device and sent in order; what it comes to is the server's answer. Without a line the page goes on:
// it shows what waits, and computes nothing itself.
import { ask, guarded, make, newKey, showRefusal } from "./api.js";
import { button, cameraOn, drawLine, keepPage, personOf, signal } from "./handheld.js";
import { plural, units } from "./money.js";
import { offered } from "./offers.js";
import { openQueue } from "./queue.js";

const $ = (id) => document.getElementById(id);
const root = $("hand");
const input = $("hand-scan");
const box = $("hand-error");
let hand = null; // as the server answered last
let lines = new Map(); // variant → its line
let turn = []; // variants in the order in which they are shown
let now = 0; // the goods on the tag
let unknown = ""; // a code that the device does not know yet, while it waits
let session = "";
let posting = "";
let more = false;
const off = new Set(); // of what has not come, what is called off

const say = (text) => { $("hand-said").textContent = text; };

// --- what is shown -----------------------------------------------------------------------------
const svg = (markup, className, viewBox) => {
  const holder = document.createElement("template");
  holder.innerHTML = `<svg class="${className}" viewBox="${viewBox}" aria-hidden="true">${markup}</svg>`;
  return holder.content.firstChild;
};
const hanger = (full) => svg('<path class="hook" d="M26 13v-4c0-3 4-3 4-6"/><path class="cloth" d="M22 13h8l21 11v29H1V24z"/>', full ? "mini full" : "mini", "0 0 52 56");
const waitingFor = (variant) => queue.waiting.filter((s) => s.step.variant_id === variant || s.step.shown === variant).length;
const full = (l) => [l.name, l.label].filter(Boolean).join(" · ");

/** What is said of a line's quantity. */
function stands(l) {
  if (l.verdict === "not ordered") return "▾ not ordered";
  if (l.verdict === "over") return `▾ ${units(l.over)} over`;
  if (l.of && Number(l.short)) return `${units(l.short)} to come`;
  return l.of ? "✓ all here" : "";
}

function tracking(l) {
  if (l.tracking === "lot") {
    const lot = make("input", { className: "form-control mono", value: l.lot, placeholder: "lot number", "aria-label": "Lot number" });
    const expiry = make("input", { className: "form-control", value: l.expiry, placeholder: "use by, 31/12/2027", "aria-label": "Use by" });
    const keep = () => { if (lot.value.trim()) add({ what: "tracking", variant_id: l.variant_id, lot: lot.value, expiry: expiry.value }); };
    return make("form", { className: "hand-more" }, make("p", { className: l.asks ? "low" : "quiet", textContent: l.asks ? "▾ Which lot? Scan its label, or type it." : "Its lot" }), lot, expiry, button("Keep", keep));
  }
  if (l.tracking === "serial") return make("p", { className: l.asks ? "low" : "quiet", textContent: `${l.asks ? "▾ " : ""}${l.numbers} of ${units(l.got)} serial numbers. Scan each, or type a range such as BW26-0100..0120.` });
  return "";
}

function tag(l) {
  const wait = waitingFor(l.variant_id);
  const look = l.picture_id ? make("img", { src: `/pictures/${l.picture_id}?small=1`, alt: "", width: 96, height: 96 }) : svg(`<path d="M31 4h22l15 8 8 32-9 3-7-20v65H24V27l-7 20-9-3 8-32z" fill="${/^#[0-9a-f]{6}/i.test(l.swatch) ? l.swatch.slice(0, 7) : "#8A959C"}"/>`, "hand-look", "0 0 84 96");
  const number = make("input", { className: "form-control num", inputMode: "decimal", value: "", placeholder: units(l.got), "aria-label": `How many of ${full(l)} there are` });
  number.addEventListener("change", () => { if (number.value.trim()) add({ what: "number", variant_id: l.variant_id, quantity: number.value }); });
  const more = (quantity) => () => add({ what: "more", variant_id: l.variant_id, quantity });
  const body = [make("div", { className: "hand-what" }, look, make("div", {}, make("h2", { textContent: l.name }), make("p", { className: "hand-variant", textContent: l.label }), make("p", { className: "mono small quiet", textContent: l.barcode || l.sku }),
    make("p", { className: "hand-got" }, make("b", { className: "mono", textContent: units(l.got) }), l.of ? make("span", { textContent: ` of ${units(l.of)}` }) : "", l.proposed ? make("small", { className: "quiet", textContent: " as ordered" }) : "")))];
  if (l.hangers) {
    const row = make("div", { className: "minis", role: "img", "aria-label": `${l.filled} of ${l.hangers} are here` });
    for (let n = 0; n < l.hangers; n++) row.append(hanger(n < l.filled));
    body.push(row);
  }
  if (l.verdict) body.push(make("p", { className: "low hand-verdict", textContent: stands(l) }));
  if (wait) body.push(make("p", { className: "low hand-verdict", textContent: `▾ ${plural(wait, "step waits", "steps wait")} for the line` }));
  body.push(make("div", { className: "hand-set" }, button("−", more("-1"), { "aria-label": "One less" }), number, button("+", more("1"), { "aria-label": "One more" })));
  if (l.of && (l.proposed || Number(l.short))) body.push(button(l.proposed ? `Count them instead: scan again` : `All ${units(l.of)} are here`, () => { if (!l.proposed) add({ what: "whole", variant_id: l.variant_id }); }, { className: "act hand-whole", disabled: l.proposed }));
  if (l.no_cost) body.push(make("p", { className: "low", textContent: "▾ What one costs is not known yet." }));
  body.push(tracking(l));
  return body;
}

// nothing is drawn anew under a finger: a press that began on a button ends on it
let held = false;
let due = false;
addEventListener("pointerdown", () => { held = true; }, true);
for (const end of ["pointerup", "pointercancel"]) addEventListener(end, () => setTimeout(() => { held = false; if (due) draw(); }), true);

function draw() {
  due = held;
  if (held) return;
  $("hand-empty").hidden = Boolean(hand?.id || now || unknown || queue.waiting.length);
  $("hand-title").textContent = hand?.orders.length ? `Taking in ${hand.orders.join(", ")}` : "Taking goods in";
  $("hand-supplier").textContent = hand?.supplier ? hand.supplier + " · " : "";
  const l = lines.get(now);
  $("hand-tag").hidden = !l && !unknown;
  const typing = $("hand-tag").contains(document.activeElement) && document.activeElement.value;
  if (!typing) {
    if (unknown) $("hand-tag-body").replaceChildren(make("h2", { className: "mono", textContent: unknown }), make("p", { className: "low", textContent: "▾ Kept on this device. What it is is told when the line is back." }));
    else if (l) $("hand-tag-body").replaceChildren(...tag(l));
  }
  $("hand-rest").replaceChildren(...turn.filter((v) => v !== now).map((v) => {
    const r = lines.get(v);
    const words = stands(r);
    const row = make("button", { type: "button", className: "hand-row" + (words.startsWith("✓") ? " quiet" : "") }, make("span", { textContent: full(r) }), make("b", { className: "mono", textContent: r.of ? `${units(r.got)} of ${units(r.of)}` : units(r.got) }),
      make("small", { className: words.startsWith("▾") || r.asks ? "low" : "", textContent: r.asks ? `▾ ${r.asks}?` : words }));
    row.addEventListener("click", () => { now = v; unknown = ""; draw(); });
    return row;
  }));
  const shelves = hand?.shelves || [];
  $("hand-shelf-row").hidden = shelves.length < 2;
  $("hand-shelf").replaceChildren(...shelves.map((s) => make("option", { value: s.id, textContent: s.name, selected: hand.shelf?.id === s.id })));
  foot();
}

const reviewing = () => !$("hand-review").hidden;
const done = () => !$("hand-done").hidden;
function foot() {
  const some = Boolean(hand?.id && turn.length);
  $("hand-foot").hidden = done();
  $("hand-all").hidden = reviewing() || ![...lines.values()].some((l) => l.of && !Number(l.got)); // of what nothing is here
  $("hand-aside").hidden = !reviewing();
  const next = $("hand-next");
  next.hidden = !some;
  const wait = queue.waiting.length;
  next.disabled = reviewing() && wait > 0;
  next.replaceChildren(reviewing() ? `Take in ${units(hand?.units || "0")}` : "Review", make("small", { textContent: wait && reviewing() ? `${wait} still to be sent` : hand?.orders.length ? `${units(hand.to_come)} stay to come` : `${units(hand?.units || "0")} in it` }));
}

function drawQueue() {
  drawLine(queue, $("hand-line"), $("hand-waiting"), $("hand-line-said"));
  const refused = $("hand-refused");
  refused.hidden = !queue.refused.length;
  refused.replaceChildren(...queue.refused.map((s) => make("div", { className: "hand-refusal" }, make("p", {}, make("b", { className: "mono", textContent: s.step.code || full(lines.get(s.step.variant_id) || { name: s.step.what }) }), " " + s.refusal.message),
    button("Set aside", () => queue.drop(s.at)), button("Try again", () => again(s)), known(s))));
}

/** Sends a step that was refused again, after those that wait, to the delivery that is in the hand now. */
async function again(s) {
  const step = await queue.take(s.at); // pressed twice, it is done once
  if (step) await add(step);
}

/** What suppliers offer under a code that was refused, once it was asked. */
const asked = new Map(); // code → what was found
function known(s) {
  const holder = make("span", {});
  if (s.refusal.status !== 404 || !s.step.code) return holder;
  if (!asked.has(s.step.code)) asked.set(s.step.code, offered(s.step.code, () => { asked.delete(s.step.code); return again(s); }, (wrong) => showRefusal(box, wrong)));
  asked.get(s.step.code).then((found) => holder.replaceChildren(...found));
  return holder;
}

// --- what the server answers ---------------------------------------------------------------------
function take(answer, whole) {
  if (whole) { lines = new Map(); turn = []; }
  hand = { ...answer, lines: undefined };
  for (const l of answer.lines) {
    lines.set(l.variant_id, l);
    if (!whole) turn = [l.variant_id, ...turn.filter((v) => v !== l.variant_id)];
    else turn.push(l.variant_id);
  }
}

async function refresh() {
  const answer = await ask("GET", "/api/v1/deliveries/hand/" + session);
  take(answer, true);
  if (answer.posted) finished(answer.posted);
  else if (!now || !lines.has(now)) now = answer.now_variant_id;
  await keep();
  draw();
}

const keep = () => queue.keep("hand", { session, hand, lines: [...lines.values()], turn, now });

async function answered(answer, step) {
  const orders = hand?.orders.length || 0;
  const only = answer.lines.length === 1 && step.what !== "all" && (answer.now_variant_id === answer.lines[0].variant_id || step.variant_id);
  take(answer, !only && answer.lines.length > 0);
  const l = only ? answer.lines[0] : null;
  if (l && queue.waiting.length <= 1) { now = l.variant_id; unknown = ""; }
  if (unknown && step.code === unknown) unknown = "";
  if (step.what === "scan") signal(answer.verdict || l?.verdict ? "look" : "good");
  say(l ? `${full(l)}: ${units(l.got)}${l.of ? " of " + units(l.of) : ""}. ${stands(l)}` : answer.said);
  offers(answer.offers, step);
  if (hand.orders.length !== orders) now = 0;
  showRefusal(box, null);
  await keep();
  draw();
}

/** What words may have meant: one of it is scanned by its SKU. */
function offers(found, step) {
  const list = $("hand-found");
  list.hidden = !found?.length;
  list.replaceChildren(...(found || []).map((f) => {
    const b = make("button", { type: "button" }, f.name, " ", make("small", { textContent: [f.detail, f.code].filter(Boolean).join(" · ") }));
    b.addEventListener("click", guarded(async () => {
      list.hidden = true;
      if (f.kind === "variant") { add({ what: "scan", code: f.code }); return; }
      const p = await ask("GET", "/api/v1/products/" + f.id);
      offers(p.variants.map((v) => ({ kind: "variant", name: v.label || p.name, code: v.sku })), step);
    }));
    return make("li", {}, b);
  }));
}

const queue = await openQueue("hand", personOf(root), {
  send: (step, key, person) => { const { shown, ...body } = step; return ask("POST", "/api/v1/deliveries/hand", body, key, person); },
  sent: answered,
  changed: async () => {
    const wrong = queue.refused?.at(-1);
    if (wrong && wrong.at !== told) { told = wrong.at; signal("wrong"); say(wrong.refusal.message); if (unknown === wrong.step.code) unknown = ""; }
    drawQueue();
    draw();
  },
});
let told = 0;

async function add(step) {
  step.session = session;
  if (step.what === "scan") {
    const bare = step.code.replace(/^\d{1,6}(\.\d+)?\s*[xX×*]\s*/, "").trim().toUpperCase();
    const known = [...lines.values()].find((l) => l.sku.toUpperCase() === bare || l.codes.includes(bare));
    if (known) step.shown = known.variant_id;
    if (queue.down || queue.waiting.length) {
      if (known) { now = known.variant_id; unknown = ""; } else unknown = step.code;
      signal("good");
      await keep();
    }
  }
  return queue.add(step);
}

// --- scanning --------------------------------------------------------------------------------
$("hand-form").addEventListener("submit", (event) => {
  event.preventDefault();
  const code = input.value.trim();
  input.value = "";
  if (code) add({ what: "scan", code });
  else if (lines.get(now)?.proposed) draw(); // Enter takes it: nothing more need be said
});
// a scanner that types may do so anywhere on the page
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.key.length !== 1 || event.target.matches("input, select, textarea")) return;
  input.focus();
});

const close = cameraOn({ switcher: $("hand-camera"), view: $("hand-view"), video: $("hand-video"), light: $("hand-light"), box }, (code) => add({ what: "scan", code }));
$("hand-shelf").addEventListener("change", (event) => add({ what: "shelf", shelf_id: Number(event.target.value) }));
$("hand-all").addEventListener("click", () => add({ what: "all" }));

// --- review, and taking it in -------------------------------------------------------------------
function part(of) {
  for (const id of ["hand", "hand-review", "hand-done"]) $(id).hidden = id !== of;
  foot();
}
$("hand-aside").addEventListener("click", () => part("hand"));

function review() {
  const all = turn.map((v) => lines.get(v));
  const list = (title, some, row) => (some.length ? [make("h3", { textContent: title }), ...some.map(row)] : []);
  const plain = (words) => (l) => make("p", { className: "hand-review-row" }, make("span", { textContent: full(l) }), make("b", { className: "mono", textContent: words(l) }));
  const short = all.filter((l) => l.of && Number(l.short));
  const left = (l) => {
    const tick = make("input", { type: "checkbox", checked: off.has(l.variant_id) });
    tick.addEventListener("change", () => { if (tick.checked) off.add(l.variant_id); else off.delete(l.variant_id); });
    return make("p", { className: "hand-review-row" }, make("span", { textContent: full(l) }), make("b", { className: "mono", textContent: `${units(l.short)} of ${units(l.of)}` }), make("label", { className: "check" }, tick, " call off"));
  };
  const taken = all.filter((l) => l.proposed).length;
  $("review-body").replaceChildren(make("p", {}, `${units(hand.units)} in all${hand.branch ? " to " + hand.branch : ""}.`, taken ? make("span", { className: "low", textContent: ` ▾ ${taken} ${taken === 1 ? "line" : "lines"} taken as ordered.` }) : ""),
    queue.refused.length ? make("p", { className: "low", textContent: `▾ ${queue.refused.length} of what was scanned or typed ${queue.refused.length === 1 ? "was" : "were"} not taken. It stands under the tag.` }) : "",
    ...list("Still to be said", all.filter((l) => Number(l.got) && (l.asks || l.no_cost)), plain((l) => (l.asks ? `▾ ${l.asks}` : "▾ its cost"))),
    ...list("More, or not ordered", all.filter((l) => l.verdict), plain(stands)),
    ...list("Not here yet", short, left),
    ...list("Here", all.filter((l) => Number(l.got) && !l.verdict), plain((l) => (l.of ? `${units(l.got)} of ${units(l.of)}` : units(l.got)))));
  showRefusal($("review-error"), null);
  part("hand-review");
  $("review-title").focus();
}

function finished(number) {
  close();
  $("done-title").textContent = `${number} is in stock`;
  $("done-document").href = "/documents/" + number;
  $("done-labels").href = "/labels?delivery=" + hand.id;
  part("hand-done");
  $("done-title").focus();
  signal("good");
}

$("hand-next").addEventListener("click", guarded(async () => {
  if (!reviewing()) {
    await queue.run();
    if (!queue.down) await refresh().catch(() => {});
    review();
    return;
  }
  try {
    posting ||= newKey();
    await queue.keep("posting", posting);
    const answer = await ask("POST", `/api/v1/deliveries/${hand.id}/post`, { call_off_variant_ids: [...off], paid_from: "", register_id: 0, more_than_ordered: more }, posting);
    finished(answer.number);
  } catch (refusal) {
    if (!refusal.lost) { posting = ""; await queue.keep("posting", ""); }
    more = refusal.field === "more_than_ordered"; // said, and pressed again
    showRefusal($("review-error"), refusal);
    signal("wrong");
  }
}));

async function begin() {
  session = newKey();
  hand = null;
  lines = new Map();
  turn = [];
  now = 0;
  posting = "";
  off.clear();
  await keep();
  await queue.keep("posting", "");
}
$("done-next").addEventListener("click", guarded(async () => {
  await begin();
  part("hand");
  await refresh().catch(() => {});
  draw();
  input.focus();
}));

// --- what was kept --------------------------------------------------------------------------------
const kept = await queue.kept("hand");
posting = (await queue.kept("posting")) || "";
if (kept?.session) {
  ({ session, hand, turn, now } = kept);
  lines = new Map(kept.lines.map((l) => [l.variant_id, l]));
} else await begin();
const order = new URLSearchParams(location.search).get("order");
if (order) {
  history.replaceState(null, "", "/buying/hand");
  if (hand?.id && !hand.posted && !hand.orders.includes(order)) await begin();
  await add({ what: "scan", code: order });
}
await queue.run();
await refresh().catch((refusal) => { queue.down = Boolean(refusal.lost); drawQueue(); draw(); });
document.documentElement.dataset.hand = "ready";
keepPage("/buying/hand").catch(() => { /* without it the page needs a server to be opened */ });
