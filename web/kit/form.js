// Forms that speak to the API: a refusal goes to its field, and nothing typed is lost.
import { ask, guarded, newKey, onSubmit, showRefusal } from "./api.js";
import { say } from "./scanline.js";

/** A whole number as it is; anything else that is typed as it was typed, so that it is refused and
 * not quietly taken as none. */
export const whole = (text) => (/^\s*([+-]?\d+)?\s*$/.test(text) ? Number(text) : text);

/** Reads a form's named fields as the API wants them. */
export function values(form) {
  const body = {};
  for (const field of form.elements) {
    if (!field.name || field.disabled) continue;
    if (field.type === "checkbox") body[field.name] = field.checked;
    else if (field.type !== "radio" || field.checked) body[field.name] = "number" in field.dataset ? whole(field.value) : field.value;
  }
  return body;
}
/** Reads a field that is drawn anew once the server has worked it out. */
export function sent(field) {
  if (field) field.sent = field.value;
  return field?.value ?? "";
}

/** What the server knows of a field: what was sent, else what it drew. */
const known = (field) => field.sent ?? (field.options ? ([...field.options].find((o) => o.defaultSelected) ?? field.options[0])?.value : field.defaultValue);

/** The fields of lines, by what a line is of and which of those it is. */
function fieldsOf(holder) {
  const fields = new Map();
  const seen = {};
  for (const row of holder.querySelectorAll("[data-line]")) {
    const of = [row.dataset.variant, row.dataset.delivery, row.dataset.order].join("/");
    seen[of] = (seen[of] || 0) + 1;
    for (const field of row.querySelectorAll("[data-f]")) fields.set(`${of} ${seen[of]} ${field.dataset.f}`, field);
  }
  return fields;
}

/** Draws a part anew. The caret stays in its field; what was typed there, or in another field
 * of a line, since it was sent stays, too. */
export function redraw(holder, html) {
  const at = document.activeElement;
  const here = holder.contains(at) && at.name;
  const typed = [...fieldsOf(holder)].filter(([, field]) => field !== at && field.value !== known(field));
  holder.innerHTML = html;
  const fields = fieldsOf(holder);
  for (const [name, before] of typed) if (fields.has(name)) fields.get(name).value = before.value;
  const field = here && holder.querySelector(`[name="${CSS.escape(here)}"]`);
  if (!field) return;
  field.focus();
  if (at.value !== known(at)) field.value = at.value;
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

/** Lets small forms of a page, one a thing, be saved each by itself: path and method say where to, more
 * what goes with what stands in the form. */
export function savedForms(selector, path, method, more = () => ({})) {
  const box = document.getElementById("form-error");
  for (const form of document.querySelectorAll(selector)) {
    const watch = watched(form);
    let key = newKey();
    onSubmit(form, async () => {
      showRefusal(box, null, form);
      try {
        await ask(method(form), path(form), { ...values(form), ...more(form) }, key);
        watch.sent();
        say("✓ Saved.");
        location.reload();
      } catch (refusal) {
        if (!refusal.lost) key = newKey();
        form.before(box);
        showRefusal(box, refusal, form);
      }
    });
  }
}
