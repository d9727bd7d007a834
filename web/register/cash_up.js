import { ask, guarded, newKey, showRefusal } from "./api.js";
import { whole } from "./form.js";

const form = document.getElementById("cash-up");
if (form) {
  const key = newKey();
  const send = guarded(async () => {
    const fields = [...form.querySelectorAll("[data-value]")].filter((i) => i.value.trim());
    const wrong = fields.find((i) => typeof whole(i.value) !== "number");
    if (wrong) {
      showRefusal(form.querySelector("[data-error]"), { message: `“${wrong.value.trim()}” is not a whole number of ${wrong.dataset.of}.` });
      wrong.setAttribute("aria-invalid", "true");
      wrong.focus();
      return;
    }
    for (const i of fields) i.removeAttribute("aria-invalid");
    const counted = fields.map((i) => ({ value: i.dataset.value, count: whole(i.value) }));
    try {
      const done = await ask("POST", `/api/v1/registers/${form.dataset.register}/cash-up`, { counted }, key);
      location.href = "/drawers/" + done.drawer_id;
    } catch (refusal) { showRefusal(form.querySelector("[data-error]"), refusal); }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
  form.querySelector("input").focus();
}
