// Counting in the hand, on a phone or any scanner that types. Each scan is a step that is kept on the device
// with its moment and sent in order; what it comes to is the server's answer. Without a line the page goes
// on: it names what it knows, shows what waits, and adds nothing up itself.
import { ask, guarded, make, newKey, showRefusal } from "./api.js";
import { button, cameraOn, drawLine, keepPage, personOf, signal } from "./handheld.js";
import { plural, units } from "./money.js";
import { openQueue } from "./queue.js";

const $ = (id) => document.getElementById(id);
const root = $("hand");
const input = $("hand-scan");
const box = $("hand-error");
let count = null; // the count that is in the hand
let goods = []; // of the count, as the device knows them
let lines = new Map(); // row → what the server answered last
let turn = []; // rows in the order in which they were counted
let now = null; // what is on the tag
let done = { done: 0, rows: 0 };
let saying = "";
const say = (text) => { saying = text; draw(); };
const full = (l) => [l.name, l.label].filter(Boolean).join(" · ");
const bare = (code) => code.replace(/^\d{1,6}(\.\d+)?\s*[xX×*]\s*/, "").trim().toUpperCase();
const known = (code) => goods.find((g) => g.sku.toUpperCase() === bare(code) || g.codes.includes(bare(code)));
const SHOWN = 60; // rows below the tag
/** Keeps what the page shows, which stays as small as it is however much has been counted. */
function keep() {
  turn = turn.slice(0, SHOWN + 1);
  lines = new Map([...turn, now?.row].filter((r) => lines.has(r)).map((r) => [r, lines.get(r)]));
  return queue.keep("count", { count, lines: [...lines.values()], turn, now, done });
}

function tag() {
  const l = now.row ? lines.get(now.row) : null;
  const g = goods.find((x) => x.variant_id === (l?.variant_id || now.variant_id));
  const waits = queue.waiting.filter((s) => s.step.shown === (g?.variant_id ?? s.step.code)).length;
  const parts = [make("h2", { textContent: l?.name || (g ? full(g) : now.code) })];
  if (l?.serial) parts.push(make("p", { className: "mono", textContent: "No. " + l.serial }));
  if (l?.lot) parts.push(make("p", { className: "mono small quiet", textContent: "lot " + l.lot }));
  parts.push(make("p", { className: "hand-got" }, make("b", { className: "mono", textContent: l ? units(l.counted) : "…" }), make("span", { textContent: l ? " counted" : "" })));
  if (l?.unexpected) parts.push(make("p", { className: "low hand-verdict", textContent: "▾ The book does not have this number here. Set it apart." }));
  else if (l && !l.planned) parts.push(make("p", { className: "low hand-verdict", textContent: "▾ Not planned for this count" }));
  if (!l && !g) parts.push(make("p", { className: "low", textContent: "▾ Kept on this device. What it is is told when the line is back." }));
  if (waits) parts.push(make("p", { className: "low hand-verdict", textContent: `▾ ${plural(waits, "step waits", "steps wait")} for the line` }));
  const variant = l?.variant_id || g?.variant_id;
  if (variant && g?.tracking !== "serial") {
    const number = make("input", { className: "form-control num wide", inputMode: "text", placeholder: "so many, or 3 x 12 + 4", "aria-label": "So many more of it" });
    const form = make("form", { className: "hand-more" }, number, make("button", { className: "act", textContent: "Add" }));
    form.addEventListener("submit", (event) => {
      event.preventDefault();
      if (number.value.trim()) add({ variant_id: variant, lot_id: l?.lot_id || 0, condition: l?.condition || "", quantity: number.value, shown: variant });
      number.value = "";
    });
    parts.push(form);
  }
  if (l) parts.push(button("Take the last one back", guarded(() => strike(l)), { className: "act hand-whole" }));
  return parts;
}

async function strike(l) {
  try {
    await ask("POST", `/api/v1/counts/${count.id}/events/${l.event_id}/strike`);
    signal("look");
    lines.delete(l.row_id);
    turn = turn.filter((r) => r !== l.row_id);
    now = null;
    say(`${l.name}: the last entry is struck.`);
    await keep();
    draw();
  } catch (refusal) { showRefusal(box, refusal); }
}

let drawing = 0;
let drawn = -Infinity;

/** Draws the page soon, and not more often than anybody sees, once for all that has changed until then. */
function draw() {
  drawing ||= setTimeout(() => {
    drawing = 0;
    drawn = performance.now();
    drawNow();
  }, Math.max(0, drawn + 60 - performance.now()));
}

function drawNow() {
  $("hand-said").textContent = saying;
  drawQueue();
  $("hand-pick").hidden = Boolean(count);
  root.hidden = $("hand-foot").hidden = !count;
  if (!count) return;
  $("hand-title").textContent = "Count " + count.number;
  $("hand-scope").textContent = count.scope ? count.scope + " · " : "";
  $("hand-page").href = "/counts/" + count.id;
  $("hand-empty").hidden = Boolean(now || turn.length);
  $("hand-tag").hidden = !now;
  if (now && !($("hand-tag").contains(document.activeElement) && document.activeElement.value)) $("hand-tag-body").replaceChildren(...tag());
  $("hand-rest").replaceChildren(...turn.filter((r) => r !== now?.row).slice(0, SHOWN).map((r) => {
    const l = lines.get(r);
    const row = make("button", { type: "button", className: "hand-row quiet" }, make("span", { textContent: [l.name, l.serial && "No. " + l.serial, l.lot].filter(Boolean).join(" · ") }), make("b", { className: "mono", textContent: units(l.counted) }), make("small", { className: l.planned && !l.unexpected ? "" : "low", textContent: l.unexpected ? "▾ not expected" : l.planned ? "✓" : "▾ not planned" }));
    row.addEventListener("click", () => { now = { row: r }; draw(); });
    return row;
  }));
  $("hand-progress").textContent = queue.waiting.length ? `${queue.waiting.length} still to be sent` : `${done.done} of ${done.rows} rows`;
  $("hand-done").disabled = queue.waiting.length > 0;
}

function drawQueue() {
  drawLine(queue, $("hand-line"), $("hand-waiting"), $("hand-line-said"));
  const refused = $("hand-refused");
  refused.hidden = !queue.refused.length;
  refused.replaceChildren(...queue.refused.map((s) => make("div", { className: "hand-refusal" }, make("p", {}, make("b", { className: "mono", textContent: s.step.code || (goods.find((g) => g.variant_id === s.step.variant_id)?.name ?? "") }), " " + s.refusal.message),
    button("Set aside", () => queue.drop(s.at)), button("Try again", async () => { const step = await queue.take(s.at); if (step) await queue.add(step); }))));
}

let told = 0;
const queue = await openQueue("count", personOf(root), {
  send: (step, key, person) => {
    const { count_id, shown, when, ...body } = step;
    if (when) body.done_ms = when; // as devices kept it before
    return ask("POST", `/api/v1/counts/${count_id}/events`, body, key, person);
  },
  sent: async (answer, step) => {
    if (step.count_id !== count?.id) return;
    lines.set(answer.row_id, { ...answer, lot_id: step.lot_id || 0 });
    turn = [answer.row_id, ...turn.filter((r) => r !== answer.row_id)];
    if (queue.waiting.length <= 1 || now?.code === step.code) now = { row: answer.row_id };
    signal(answer.planned && !answer.unexpected ? "good" : "look");
    say(answer.said);
    showRefusal(box, null);
    await keep();
    draw();
    soon();
  },
  changed: async () => {
    const wrong = queue.refused?.at(-1);
    if (wrong && wrong.at !== told) { told = wrong.at; signal("wrong"); say(wrong.refusal.message); if (now?.code === wrong.step.code) now = null; }
    draw();
  },
});

async function add(step) {
  step.count_id = count.id;
  step.done_ms = Date.now();
  if (step.code) {
    const g = known(step.code);
    step.shown = g?.variant_id ?? step.code;
    step.after_variant_id = lines.get(turn[0])?.variant_id || 0;
    if (queue.down || queue.waiting.length) {
      now = g ? { variant_id: g.variant_id, code: step.code } : { code: step.code };
      signal("good");
      await keep();
    }
  }
  return queue.add(step);
}

$("hand-form").addEventListener("submit", (event) => {
  event.preventDefault();
  const code = input.value.trim();
  input.value = "";
  if (code) add({ code });
});
// a scanner that types may do so anywhere on the page
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.key.length !== 1 || event.target.matches("input, select, textarea")) return;
  input.focus();
});
const close = cameraOn({ switcher: $("hand-camera"), view: $("hand-view"), video: $("hand-video"), light: $("hand-light"), box }, (code) => add({ code }));

let coming = 0;
/** Asks how far the count is once no step has been answered for a moment. */
function soon() {
  clearTimeout(coming);
  coming = setTimeout(() => refresh().catch(() => {}), 300);
}
async function refresh() {
  if (!count) return;
  const news = await ask("GET", `/api/v1/counts/${count.id}/news?after=999999999999`);
  done = { done: news.done, rows: news.rows };
  if (news.state === "Settling" || news.state === "Closed") showRefusal(box, { message: `${count.number} is ${news.state === "Closed" ? "closed" : "being settled"}; nothing more is counted in it.` });
  draw();
}
/** Asks which goods the count has, for the time without a line. */
async function knowGoods() {
  goods = await ask("GET", `/api/v1/counts/${count.id}/goods`).catch(() => []);
  await queue.keep("goods", { count: count.id, goods });
}
async function take(one) {
  count = { id: one.id, number: one.number, scope: one.scope };
  goods = [];
  lines = new Map();
  turn = [];
  now = null;
  await keep();
  draw();
  await knowGoods();
  await refresh().catch(() => {});
  document.documentElement.dataset.hand = "ready";
  input.focus();
}
async function pick() {
  count = null;
  draw();
  const { items } = await ask("GET", "/api/v1/counts");
  const open = items.filter((c) => c.state === "Planned" || c.state === "Counting");
  $("pick-none").hidden = open.length > 0;
  $("pick-list").replaceChildren(...open.map((c) => {
    const row = make("button", { type: "button", className: "hand-row" }, make("span", { textContent: `${c.number}, ${c.scope}` }), make("b", { className: "mono", textContent: `${c.done} of ${c.rows}` }), make("small", { textContent: c.branch }));
    row.addEventListener("click", guarded(() => take(c)));
    return row;
  }));
  document.documentElement.dataset.hand = "ready";
}
$("hand-done").addEventListener("click", guarded(async () => {
  close();
  await queue.run();
  if (queue.waiting.length) return;
  await queue.keep("count", null);
  await pick().catch((refusal) => showRefusal(box, refusal));
}));
setInterval(() => { if (!document.hidden && !queue.down) refresh().catch(() => {}); }, 10_000);

const asked = Number(new URLSearchParams(location.search).get("count"));
const kept = await queue.kept("count");
history.replaceState(null, "", "/counts/hand");
if (kept?.count && (!asked || asked === kept.count.id)) {
  ({ count, turn, now, done } = kept);
  const held = await queue.kept("goods");
  goods = (held?.count === count.id ? held.goods : kept.goods) || [];
  lines = new Map(kept.lines.map((l) => [l.row_id, l]));
  draw();
  await queue.run();
  await refresh().catch((refusal) => { queue.down = Boolean(refusal.lost); draw(); });
  if (!goods.length) await knowGoods();
  document.documentElement.dataset.hand = "ready";
} else if (asked) await take(await ask("GET", "/api/v1/counts/" + asked).then((f) => f.count));
else await pick().catch((refusal) => { showRefusal(box, refusal); root.hidden = false; });
keepPage("/counts/hand").catch(() => { /* without it the page needs a server to be opened */ });
