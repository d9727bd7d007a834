import { ask, guarded, newKey, showRefusal } from "./api.js";

const form = document.getElementById("cash-up");
if (form) {
  const key = newKey();
  const send = guarded(async () => {
    const counted = [...form.querySelectorAll("[data-value]")].filter((i) => i.value.trim()).map((i) => ({ value: i.dataset.value, count: Number(i.value) }));
    if (counted.some((c) => !Number.isInteger(c.count))) {
      showRefusal(form.querySelector("[data-error]"), { message: "One of the counts is not a whole number." });
      return;
    }
    try {
      const done = await ask("POST", `/api/v1/registers/${form.dataset.register}/cash-up`, { counted }, key);
      location.href = "/drawers/" + done.drawer_id;
    } catch (refusal) { showRefusal(form.querySelector("[data-error]"), refusal); }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
  form.querySelector("input").focus();
}
