import { ask, guarded, newKey, showRefusal } from "./api.js";

const panel = document.getElementById("reverse-panel");
if (panel) {
  const key = newKey();
  document.getElementById("reverse").addEventListener("click", () => { panel.hidden = !panel.hidden; panel.querySelector("input").focus(); });
  const send = guarded(async () => {
    try {
      const done = await ask("POST", `/api/v1/documents/${encodeURIComponent(panel.dataset.number)}/reverse`, { note: panel.elements.note.value }, key);
      location.href = "/documents/" + done.number;
    } catch (refusal) { showRefusal(panel.querySelector("[data-error]"), refusal); }
  });
  panel.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}
