// Counting: every scan and typed quantity goes to the server at once, and stands
// in the log.
import { ask, guarded, make, newKey, showRefusal } from "./api.js";
import { values } from "./form.js";
import { addUp } from "./rack.js";
import { missed, onScan, say } from "./scanline.js";

const box = document.getElementById("form-error");
const counting = document.getElementById("count");
if (counting) {
  const id = counting.dataset.count;
  const base = `/api/v1/counts/${id}/events`;
  const log = document.getElementById("log");

  const strike = async (event) => {
    await ask("POST", `${base}/${event}/strike`);
    location.reload();
  };
  function note(done, quantity) {
    document.getElementById("log-empty")?.remove();
    const button = make("button", { type: "button", className: "link", textContent: "strike" });
    button.dataset.strike = done.event_id;
    const row = make("tr", {}, make("td", { className: "small", textContent: "now" }), make("td", { textContent: done.name + (done.planned ? "" : " (not planned)") }), make("td"), make("td", { className: "num", textContent: "+" + quantity }), make("td", {}, button));
    log.prepend(row);
    for (const cell of document.querySelectorAll(`.rack-cell[data-variant="${done.variant_id}"]`)) {
      cell.placeholder = Number(done.counted);
      addUp(cell.closest(".rack"));
    }
    showRefusal(box, null);
    say(done.said, () => strike(done.event_id));
  }
  // Each entry waits for the one before, so that none is lost and all are in order.
  let queue = Promise.resolve();
  const send = (body, quantity) => (queue = queue.then(async () => {
    try {
      const done = await ask("POST", base, body);
      note(done, quantity);
      return done;
    } catch (refusal) {
      showRefusal(box, refusal);
      await missed(body.code || "", refusal);
      return null;
    }
  }));
  onScan((text) => send({ code: text }, text.match(/^(\d+(?:\.\d+)?)\s*[x×*]/i)?.[1] || 1), true);
  document.addEventListener("rack-set", async (event) => {
    for (const c of event.detail.cells) {
      if (c.value === "") continue;
      const done = await send({ variant_id: c.variant, quantity: c.value }, c.value);
      if (done) { c.cell.value = ""; c.cell.dataset.was = ""; addUp(c.cell.closest(".rack")); }
    }
  });
  for (const input of document.querySelectorAll("[data-type-row]")) {
    input.addEventListener("change", async () => {
      if (!input.value.trim()) return;
      const done = await send({ variant_id: Number(input.dataset.variant), lot_id: Number(input.dataset.lot), condition: input.dataset.condition, quantity: input.value }, input.value);
      if (done) { input.value = ""; input.closest("tr").querySelector("[data-row-counted]").textContent = Number(done.counted); }
    });
  }
  log.addEventListener("click", (event) => {
    const button = event.target.closest("[data-strike]");
    if (button) strike(button.dataset.strike).catch((refusal) => showRefusal(box, refusal));
  });
  document.getElementById("settling").addEventListener("click", guarded(async () => {
    await queue;
    try {
      await ask("POST", `/api/v1/counts/${id}/state`, { state: "Settling" });
      location.href = `/counts/${id}`;
    } catch (refusal) { showRefusal(box, refusal); }
  }));
}

const settling = document.getElementById("settle");
if (settling) {
  const id = settling.dataset.count;
  const key = newKey();
  const error = settling.querySelector("[data-error]");
  const send = guarded(async () => {
    const reasons = {};
    for (const select of settling.querySelectorAll("[data-reason]")) reasons[select.dataset.reason] = select.value;
    const readings = {};
    for (const select of settling.querySelectorAll("[data-reading]")) readings[select.dataset.reading] = select.value;
    try {
      await ask("POST", `/api/v1/counts/${id}/settle`, { uncounted: values(settling).uncounted || "", reasons, readings }, key);
      location.reload();
    } catch (refusal) { showRefusal(error, refusal, settling); }
  });
  settling.addEventListener("change", (event) => { // the button says what it will do
    if (event.target.name !== "uncounted") return;
    for (const sum of settling.querySelectorAll("[data-sum]")) sum.hidden = sum.dataset.sum !== event.target.value;
  });
  settling.addEventListener("submit", (event) => { event.preventDefault(); send(); });
  document.getElementById("count-on")?.addEventListener("click", guarded(async () => {
    await ask("POST", `/api/v1/counts/${id}/state`, { state: "Counting" });
    location.href = `/counts/${id}`;
  }));
}
