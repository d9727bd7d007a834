// Counting: every scan and typed quantity goes to the server at once, and stands
// in the log; what others count comes in by itself.
import { ask, guarded, make, newKey, showRefusal } from "./api.js";
import { addUp } from "./rack.js";
import { missed, onScan, say } from "./scanline.js";

const box = document.getElementById("form-error");
const counting = document.getElementById("count");
const id = counting.dataset.count;
const me = Number(counting.dataset.me);
const base = `/api/v1/counts/${id}/events`;
const log = document.getElementById("log");
let last = Number(counting.dataset.last);
let at = counting.dataset.at;
let before = 0; // the goods that were scanned last

const strike = async (event) => {
  await ask("POST", `${base}/${event}/strike`);
  location.reload();
};
/** Puts an entry into the log, unless it stands there. */
function enter(event, what, who, quantity, unexpected) {
  if (log.querySelector(`[data-event="${event}"]`)) return;
  document.getElementById("log-empty")?.remove();
  const button = make("button", { type: "button", className: "link", textContent: "strike" });
  button.dataset.strike = event;
  const row = make("tr", {}, make("td", { className: "small", textContent: "now" }), make("td", {}, what, unexpected ? make("small", { className: "low", textContent: " ▾ not expected" }) : ""),
    make("td", { className: "small", textContent: who }), make("td", { className: "num", textContent: "+" + quantity }), make("td", {}, button));
  row.dataset.event = event;
  log.prepend(row);
}
function show(variant, row, counted) {
  for (const cell of document.querySelectorAll(`.rack-cell[data-variant="${variant}"]`)) {
    cell.placeholder = Number(counted);
    addUp(cell.closest(".rack"));
  }
  const line = document.querySelector(`tr[data-row="${row}"] [data-row-counted]`);
  if (line) line.textContent = Number(counted);
}
function note(done) {
  before = done.variant_id;
  enter(done.event_id, done.name + (done.serial ? " No. " + done.serial : "") + (done.planned ? "" : " (not planned)"), "", Number(done.added), done.unexpected);
  if (!done.unexpected && done.condition === "For sale" && !done.lot) show(done.variant_id, done.row_id, done.counted);
  else show(0, done.row_id, done.counted);
  showRefusal(box, null);
  say(done.said, () => strike(done.event_id));
}
// Each entry waits for the one before, so that none is lost and all are in order.
let queue = Promise.resolve();
const send = (body) => (queue = queue.then(async () => {
  try {
    const done = await ask("POST", base, body);
    note(done);
    return done;
  } catch (refusal) {
    showRefusal(box, refusal);
    await missed(body.code || "", refusal);
    return null;
  }
}));
onScan((text) => send({ code: text, after_variant_id: before }), true);
document.addEventListener("rack-set", async (event) => {
  for (const c of event.detail.cells) {
    if (c.value === "") continue;
    const done = await send({ variant_id: c.variant, quantity: c.value });
    if (done) { c.cell.value = ""; c.cell.dataset.was = ""; addUp(c.cell.closest(".rack")); }
  }
});
const typed = [...document.querySelectorAll("[data-type-row]")];
for (const [i, input] of typed.entries()) {
  input.addEventListener("keydown", (event) => {
    const step = { Enter: 1, ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step) return;
    event.preventDefault();
    const next = typed[i + step];
    if (next) { next.focus(); next.select(); } else input.blur();
  });
  input.addEventListener("change", async () => {
    if (!input.value.trim()) return;
    const done = await send({ variant_id: Number(input.dataset.variant), lot_id: Number(input.dataset.lot), condition: input.dataset.condition, quantity: input.value });
    if (done) input.value = "";
    else { input.setAttribute("aria-invalid", "true"); input.focus(); }
  });
  input.addEventListener("input", () => input.removeAttribute("aria-invalid"));
}
log.addEventListener("click", (event) => {
  const button = event.target.closest("[data-strike]");
  if (button) strike(button.dataset.strike).catch((refusal) => showRefusal(box, refusal));
});
/** Does a deed on the count, then goes on. */
const on = (name, work, then = () => location.reload()) => document.getElementById(name)?.addEventListener("click", guarded(async () => {
  await queue;
  try {
    await work();
    then();
  } catch (refusal) { showRefusal(box, refusal); }
}));
on("settling", () => ask("POST", `/api/v1/counts/${id}/state`, { state: "Settling" }), () => { location.href = `/counts/${id}`; });
on("release", () => ask("POST", `/api/v1/counts/${id}/release`));
on("give-up", () => ask("POST", `/api/v1/counts/${id}/give-up`), () => { location.href = "/counts"; });
document.getElementById("counters")?.addEventListener("submit", guarded(async (event) => {
  event.preventDefault();
  try {
    await ask("PUT", `/api/v1/counts/${id}/counters`, { counter_ids: [...event.target.querySelectorAll("[data-counter]:checked")].map((b) => Number(b.dataset.counter)), revision: event.target.dataset.revision });
    location.reload();
  } catch (refusal) { showRefusal(box, refusal); }
}));
counting.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-row-deed]");
  if (!button) return;
  try {
    await ask("POST", `/api/v1/counts/${id}/rows/${button.dataset.of}`, { what: button.dataset.rowDeed, counter_id: 0 });
    location.reload();
  } catch (refusal) { showRefusal(box, refusal); }
});

// What others count: asked for every few seconds while the page is seen.
const pace = 3000;
async function news() {
  if (!document.hidden) {
    try {
      const found = await ask("GET", `/api/v1/counts/${id}/news?after=${last}&since=${encodeURIComponent(at)}`);
      document.getElementById("done-rows").textContent = found.done;
      document.getElementById("all-rows").textContent = found.rows;
      for (const e of found.events) {
        if (e.struck_at) { log.querySelector(`[data-event="${e.id}"]`)?.classList.add("struck"); continue; }
        if (e.user_id === me) continue;
        enter(e.id, [e.name, e.label, e.serial].filter(Boolean).join(" · "), e.who, Number(e.quantity), e.unexpected);
        if (!counting.dataset.columns && !e.unexpected) {
          const cell = e.lot_id || e.condition !== "For sale" ? null : document.querySelector(`.rack-cell[data-variant="${e.variant_id}"]`);
          if (cell) { cell.placeholder = Number(cell.placeholder.replace("–", "0")) + Number(e.quantity); addUp(cell.closest(".rack")); }
        }
      }
      last = found.last_event_id;
      at = found.at;
      if (found.state === "Settling" || found.state === "Closed") say("This count is being settled.", null, true);
    } catch { /* it is asked again */ }
  }
  setTimeout(news, pace);
}
setTimeout(news, pace);
