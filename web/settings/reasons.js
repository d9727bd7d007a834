import { ask, newKey, onSubmit, showRefusal } from "./api.js";
import { values, watched } from "./form.js";
import { say } from "./scanline.js";

const box = document.getElementById("form-error");
for (const form of document.querySelectorAll("[data-reason]")) {
  const id = Number(form.dataset.reason);
  const watch = watched(form);
  let key = newKey();
  onSubmit(form, async () => {
    showRefusal(box, null, form);
    try {
      await ask(id ? "PUT" : "POST", "/api/v1/reasons" + (id ? "/" + id : ""), { ...values(form), kind: form.dataset.kind }, key);
      watch.sent();
      say("✓ Saved.");
      location.reload();
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, form);
    }
  });
}
