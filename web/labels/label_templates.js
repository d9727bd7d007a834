// Kinds of label: dropping one of the shop's own.
import { ask, guarded } from "./api.js";
import { say } from "./scanline.js";

for (const button of document.querySelectorAll("[data-drop-label]")) button.addEventListener("click", guarded(async () => { try { await ask("DELETE", "/api/v1/label-templates/" + button.dataset.dropLabel); location.reload(); } catch (refusal) { say(refusal.message, null, true); } }));
