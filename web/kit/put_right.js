// Puts stock right on the spot, from wherever it is seen: the form comes from the server when it is
// asked for, and tells its page with the event put-right that it is done.
import { approved } from "./approve.js";
import { ask, newKey, part, showRefusal } from "./api.js";
import { values } from "./form.js";
import { say } from "./scanline.js";

document.addEventListener("toggle", async (event) => {
  const details = event.target.closest?.("details[data-put-right]");
  if (!details?.open || details.querySelector("form")) return;
  const holder = details.querySelector("[data-holder]");
  try {
    holder.innerHTML = await part(details.dataset.putRight);
    holder.querySelector("select, input")?.focus();
  } catch (refusal) { holder.textContent = refusal.message; }
}, true);

const before = sessionStorage.getItem("said");
if (before) {
  sessionStorage.removeItem("said");
  say(before);
}

let key = newKey();
document.addEventListener("submit", async (event) => {
  const form = event.target.closest?.("form[data-stock]");
  if (!form) return;
  event.preventDefault();
  const box = form.querySelector("[data-error]");
  const button = form.querySelector("button.first");
  showRefusal(box, null, form);
  button.disabled = true;
  try {
    const body = { variant_id: Number(form.dataset.stock), serials: "", lot_id: 0, ...values(form) };
    const done = await approved((approval) => {
      if (approval) key = newKey();
      return ask("POST", "/api/v1/stock/put-right", approval ? { ...body, approval } : body, key);
    });
    key = newKey();
    const said = `✓ ${done.says} Posted as ${done.number}.`;
    say(said);
    // a page that does not draw its figures anew by itself is loaded again, and says then what was done
    if (form.dispatchEvent(new CustomEvent("put-right", { bubbles: true, cancelable: true, detail: done }))) {
      sessionStorage.setItem("said", said);
      location.reload();
    }
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal, form);
  } finally { button.disabled = false; }
});
