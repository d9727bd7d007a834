// Value sets: rename, recolour, add and drop values.
import { ask, guarded, showRefusal } from "./api.js";
import { say } from "./scanline.js";

const box = document.getElementById("form-error");
const tell = (refusal) => { showRefusal(box, refusal); box.scrollIntoView({ block: "nearest" }); };
for (const item of document.querySelectorAll(".set-values li")) {
  item.addEventListener("change", guarded(async () => {
    try {
      const done = await ask("PUT", "/api/v1/values/" + item.dataset.id, { name: item.querySelector("[data-name]").value, swatch: item.querySelector("[data-swatch]")?.value || "", position: Number(item.dataset.position), revision: item.dataset.revision });
      item.dataset.revision = done.revision;
      showRefusal(box, null);
      say("✓ " + done.says);
      if (item.querySelector("[data-swatch]")) location.reload();
    } catch (refusal) { tell(refusal); }
  }));
  item.querySelector("[data-drop]")?.addEventListener("click", guarded(async () => {
    try { await ask("DELETE", "/api/v1/values/" + item.dataset.id); item.remove(); showRefusal(box, null); } catch (refusal) { tell(refusal); }
  }));
}
for (const form of document.querySelectorAll("[data-add]")) {
  const send = guarded(async () => {
    const [name, swatch] = form.querySelectorAll("input");
    try { await ask("POST", "/api/v1/values", { set: form.closest("[data-set]").dataset.set, values: [{ name: name.value, swatch: swatch?.value || "" }] }); location.reload(); } catch (refusal) { tell(refusal); }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}
