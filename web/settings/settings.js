// Settings of the shop.
import { ask, guarded, onSubmit, showRefusal } from "./api.js";
import { values, whole } from "./form.js";
import { say } from "./scanline.js";

const box = document.getElementById("form-error");
function deed(id, work) {
  const form = document.getElementById(id);
  if (!form) return;
  const send = guarded(async () => { try { await work(values(form)); showRefusal(box, null, form); } catch (refusal) { showRefusal(box, refusal, form); } });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}
deed("settings", async (body) => {
  const saved = await ask("PUT", "/api/v1/settings", body);
  document.getElementById("settings").elements.revision.value = saved.revision;
  say("✓ Saved.");
});
deed("till", async (body) => {
  const saved = await ask("PUT", "/api/v1/settings/register", body);
  document.getElementById("till").elements.revision.value = saved.revision;
  say("✓ Saved.");
});
for (const form of document.querySelectorAll("[data-way]")) onSubmit(form, async () => {
  const [from, to] = form.dataset.way.split("/").map(Number);
  try {
    const { minutes, revision } = form.elements;
    const saved = await ask("PUT", "/api/v1/branch-ways", { from_id: from, to_id: to, minutes: minutes.value.trim() ? whole(minutes.value) : null, revision: revision.value });
    revision.value = saved.revision;
    showRefusal(box, null, form);
    say("✓ Saved.");
  } catch (refusal) { form.before(box); showRefusal(box, refusal, form); }
});
deed("range", async (body) => { await ask("POST", "/api/v1/barcode-ranges", body); location.reload(); });
const real = async (body) => { await ask("POST", "/api/v1/practice/end", body); location.href = "/settings"; };
deed("clear", (body) => real(body));
document.getElementById("keep")?.addEventListener("click", guarded(async () => { try { await real({ keep: true }); } catch (refusal) { showRefusal(box, refusal); } }));
for (const button of document.querySelectorAll("[data-range]")) button.addEventListener("click", guarded(async () => { try { await ask("PUT", "/api/v1/barcode-ranges/" + button.dataset.range, { open: button.dataset.open === "1" }); location.reload(); } catch (refusal) { showRefusal(box, refusal); } }));
