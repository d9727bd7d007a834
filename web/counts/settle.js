// Settling a count: what was said of its rows goes with it.
import { approved } from "./approve.js";
import { ask, guarded, newKey, showRefusal } from "./api.js";
import { values } from "./form.js";

const settling = document.getElementById("settle");
const id = settling.dataset.count;
const error = settling.querySelector("[data-error]");
let key = newKey();

function said(name) {
  const by = {};
  for (const select of settling.querySelectorAll(`[data-${name}]`)) by[select.dataset[name]] = select.value;
  return by;
}
const send = guarded(async () => {
  const readings = said("reading");
  for (const box of settling.querySelectorAll("[data-leave]:checked")) readings[box.dataset.leave] = "leave";
  const mix_ups = [...settling.querySelectorAll("[data-mix-short]:checked")].map((b) => ({ short_row_id: Number(b.dataset.mixShort), over_row_id: Number(b.dataset.mixOver) }));
  const body = { uncounted: values(settling).uncounted || "", reasons: said("reason"), readings, mix_ups };
  showRefusal(error, null, settling);
  try {
    await approved((approval) => {
      if (approval) key = newKey();
      return ask("POST", `/api/v1/counts/${id}/settle`, approval ? { ...body, approval } : body, key);
    });
    location.reload();
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(error, refusal, settling);
  }
});
settling.addEventListener("change", (event) => { // the button says what it will do
  if (event.target.name !== "uncounted") return;
  for (const sum of settling.querySelectorAll("[data-sum]")) sum.hidden = sum.dataset.sum !== event.target.value;
});
settling.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-row-deed]");
  if (!button) return;
  try {
    await ask("POST", `/api/v1/counts/${id}/rows/${button.dataset.of}`, { what: button.dataset.rowDeed, counter_id: Number(button.dataset.counter) });
    if (button.dataset.rowDeed === "recount") location.href = "/counts/" + id;
    else location.reload();
  } catch (refusal) { showRefusal(error, refusal, settling); }
});
settling.addEventListener("submit", (event) => { event.preventDefault(); if (error) send(); });
document.addEventListener("keydown", (event) => { if (error && event.key === "Enter" && (event.ctrlKey || event.metaKey)) { event.preventDefault(); send(); } });
document.getElementById("count-on")?.addEventListener("click", guarded(async () => {
  await ask("POST", `/api/v1/counts/${id}/state`, { state: "Counting" });
  location.href = `/counts/${id}`;
}));
