// Price lists and tax rates.
import { ask, guarded, showRefusal } from "./api.js";
import { showEnding } from "./ending.js";
import { values } from "./form.js";
import { say } from "./scanline.js";

const box = document.getElementById("form-error");
const tell = (refusal) => { showRefusal(box, refusal); box.scrollIntoView({ block: "nearest" }); };
const list = document.getElementById("list");
if (list) {
  let editing = 0;
  let revision = "";
  const again = document.getElementById("list-new");
  const send = guarded(async () => {
    try { await ask(editing ? "PUT" : "POST", "/api/v1/price-lists" + (editing ? "/" + editing : ""), { ...values(list), revision }); location.reload(); } catch (refusal) { showRefusal(box, refusal, list); }
  });
  list.addEventListener("submit", (event) => { event.preventDefault(); send(); });
  list.addEventListener("reset", () => { editing = 0; revision = ""; again.hidden = true; document.getElementById("list-title").textContent = "A new list"; });
  for (const button of document.querySelectorAll("[data-edit-list]")) {
    button.addEventListener("click", () => {
      const l = JSON.parse(button.dataset.list);
      editing = l.id;
      revision = l.revision;
      again.hidden = false;
      document.getElementById("list-title").textContent = "Change " + l.name;
      const e = l.rule.ending;
      for (const [name, value] of Object.entries({ name: l.name, kind: l.rule.kind, list_id: l.rule.list_id || 1, percent: Number(l.rule.percent) || "", amount: Number(l.rule.amount) || "", ending: Number(e.step) ? `${e.step}/${e.end}/${e.way}` : "" })) list.elements[name].value = value;
      showEnding(list.elements.ending);
      list.elements.name.focus();
    });
  }
  for (const button of document.querySelectorAll("[data-drop-list]")) button.addEventListener("click", guarded(async () => { try { await ask("DELETE", "/api/v1/price-lists/" + button.dataset.dropList); location.reload(); } catch (refusal) { tell(refusal); } }));
}
for (const form of document.querySelectorAll("[data-rate]")) {
  const send = guarded(async () => { try { await ask("POST", `/api/v1/tax-classes/${form.dataset.rate}/rates`, values(form)); location.reload(); } catch (refusal) { tell(refusal); } });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}
for (const button of document.querySelectorAll("[data-drop-rates]")) button.addEventListener("click", guarded(async () => { try { await ask("DELETE", `/api/v1/tax-classes/${button.dataset.dropRates}/rates/later`); location.reload(); } catch (refusal) { tell(refusal); } }));
