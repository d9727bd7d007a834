// A supplier: changed, closed, merged with another.
import { ask, guarded, newKey, showRefusal, onSubmit } from "./api.js";
import { values, watched } from "./form.js";
import "./ending.js";

const box = document.getElementById("form-error");
const form = document.getElementById("supplier-form");
if (form) {
  const watch = watched(form);
  let key = newKey();
  const contacts = () => [...form.querySelectorAll("[data-contact]")].map((row) =>
    Object.fromEntries([...row.querySelectorAll("[data-c]")].map((field) => [field.dataset.c, field.value])));
  const save = guarded(async () => {
    const id = Number(form.dataset.id);
    const body = Object.fromEntries(Object.entries(values(form)).filter(([name]) => !name.startsWith("contacts.")));
    showRefusal(box, null, form);
    try {
      const kept = await ask(id ? "PUT" : "POST", "/api/v1/suppliers" + (id ? "/" + id : ""), { ...body, contacts: contacts(), revision: Number(form.dataset.revision) }, key);
      watch.sent();
      location.href = "/buying/suppliers/" + kept.id;
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, form);
    }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); save(); });
  document.getElementById("more-contacts").addEventListener("click", () => {
    const rows = form.querySelectorAll("[data-contact]");
    const row = rows[rows.length - 1].cloneNode(true);
    for (const field of row.querySelectorAll("input")) {
      field.value = "";
      field.name = `contacts.${rows.length}.${field.dataset.c}`;
      field.setAttribute("aria-label", field.getAttribute("aria-label").replace(/\d+/, rows.length + 1));
    }
    rows[rows.length - 1].after(row);
    row.querySelector("input").focus();
  });
}

const page = document.getElementById("supplier");
if (page) {
  const id = page.dataset.id;
  const close = document.getElementById("close");
  close?.addEventListener("click", guarded(async () => {
    try {
      await ask("POST", `/api/v1/suppliers/${id}/close`, { closed: close.dataset.closed !== "true" });
      location.reload();
    } catch (refusal) { showRefusal(box, refusal); }
  }));
  const merge = document.getElementById("merge");
  if (merge) onSubmit(merge, async () => {
    const into = document.getElementById("into");
    if (!into.value || !confirm(`Everything of this supplier becomes ${into.selectedOptions[0].textContent}'s. That can't be undone.`)) return;
    try {
      const kept = await ask("POST", `/api/v1/suppliers/${id}/merge`, { into_id: Number(into.value) });
      location.href = "/buying/suppliers/" + kept.id;
    } catch (refusal) { showRefusal(box, refusal); }
  });
}
