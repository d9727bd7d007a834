// The first start: one form makes the shop.
import { ask, guarded, showRefusal } from "./api.js";
import { values } from "./form.js";

const form = document.getElementById("start");
const box = document.getElementById("form-error");
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
if (zone && zone !== "UTC") form.elements.zone.value = zone;
const send = guarded(async () => {
  showRefusal(box, null, form);
  const taxes = [...document.querySelectorAll("#taxes tr")].map((row) => { const [name, percent] = row.querySelectorAll("input"); return { name: name.value, percent: percent.value }; });
  try {
    await ask("POST", "/start", { ...values(form), without_tax: document.getElementById("without_tax").value === "1", taxes });
    location.href = "/";
  } catch (refusal) { showRefusal(box, refusal, form); box.scrollIntoView({ block: "nearest" }); }
});
form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
