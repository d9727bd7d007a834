import { ask, guarded, newKey, showRefusal } from "./api.js";
import { money } from "./money.js";
import { onScan } from "./scanline.js";

onScan((text) => { location.href = location.pathname + "?sale=" + encodeURIComponent(text); }, true);
const form = document.getElementById("return");
if (form) {
  let key = newKey();
  const box = form.querySelector("[data-error]");
  const send = guarded(async () => {
    showRefusal(box, null, form);
    const lines = [...form.querySelectorAll("[data-line]")].flatMap((row) => {
      const quantity = row.querySelector('[data-f="quantity"]')?.value.trim();
      return quantity ? [{ line: Number(row.dataset.line), quantity, condition: row.querySelector('[data-f="condition"]').value }] : [];
    });
    try {
      const done = await ask("POST", "/api/v1/returns", { register_id: Number(form.dataset.register), sale: form.dataset.sale, lines }, key);
      const said = [];
      if (Number(done.cash) > 0) said.push(`${money(done.cash)} in cash`);
      if (Number(done.card) > 0) said.push(`${money(done.card)} to the card`);
      const line = form.querySelector("[data-done]");
      line.hidden = false;
      line.innerHTML = "";
      const link = Object.assign(document.createElement("a"), { href: "/documents/" + done.number, textContent: done.number });
      line.append(`✓ Give back ${said.join(" and ") || "nothing"}. Posted as `, link, ".");
      form.querySelector("button.first").disabled = true;
      for (const field of form.querySelectorAll("input, select")) field.disabled = true;
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, form);
    }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
  form.querySelector("input")?.focus();
}
