// Today: cards that are to be settled.
import { ask, guarded } from "./api.js";
import { say } from "./scanline.js";

for (const button of document.querySelectorAll("[data-give-back]")) {
  button.addEventListener("click", guarded(async () => {
    try {
      await ask("POST", "/api/v1/cards/give-back", { reference: button.dataset.giveBack });
      button.closest("tr").remove();
      say("✓ The card has its money back.");
    } catch (refusal) { say(refusal.message, null, true); }
  }));
}
