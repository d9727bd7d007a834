// Forms that speak to the API: a refusal goes to its field, and nothing typed is lost.
import { ask, guarded, newKey, showRefusal } from "./api.js";

/** Reads a form's named fields as the API wants them. */
export function values(form) {
  const body = {};
  for (const field of form.elements) {
    if (!field.name || field.disabled) continue;
    if (field.type === "checkbox") body[field.name] = field.checked;
    else if (field.type !== "radio" || field.checked) body[field.name] = "number" in field.dataset ? Number(field.value) : field.value;
  }
  return body;
}
/** Reads a field that is drawn anew once the server has worked it out. */
export function sent(field) {
  if (field) field.sent = field.value;
  return field?.value ?? "";
}

/** Draws a part anew. The caret stays in its field, and what was typed there since
 * it was sent stays, too. */
export function redraw(holder, html) {
  const at = document.activeElement;
  const here = holder.contains(at) && at.name;
  holder.innerHTML = html;
  const field = here && holder.querySelector(`[name="${CSS.escape(here)}"]`);
  if (!field) return;
  field.focus();
  if (at.value !== at.sent) field.value = at.value;
  else field.select?.();
}
// Leaving a form that was changed asks, until what was typed is sent.
const changed = new Set();

/** Watches a form: a page is not left while something in it was changed and not sent. */
export function watched(form) {
  form.addEventListener("input", (event) => { if (event.isTrusted) changed.add(form); });
  return { sent: () => changed.delete(form) };
}
addEventListener("beforeunload", (event) => { if (changed.size) event.preventDefault(); });

for (const form of document.querySelectorAll("form[data-api]")) {
  let key = newKey();
  const watch = watched(form);
  const send = guarded(async () => {
    const [method, path] = form.dataset.api.split(" ");
    const box = form.querySelector("[data-error]");
    showRefusal(box, null, form);
    try {
      const answer = await ask(method, path, values(form), key);
      watch.sent();
      location.href = form.dataset.then.replace(/\{(\w+)\}/g, (_, name) => answer[name]);
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, form);
    }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}
