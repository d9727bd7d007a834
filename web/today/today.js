// Today: cards that are to be settled, numbers that are owed, products to be completed.
import { approved } from "./approve.js";
import { ask, guarded, newKey, onSubmit, showRefusal } from "./api.js";
import { money } from "./money.js";
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

for (const form of document.querySelectorAll("[data-owed]")) {
  let key = newKey();
  onSubmit(form, async () => {
    const box = document.getElementById("owed-error");
    showRefusal(box, null, form);
    try {
      const done = await ask("POST", "/api/v1/numbers-owed/" + form.dataset.owed, { number: form.elements.number.value }, key);
      form.closest("tr").remove();
      say(`✓ Its number is noted, posted as ${done.number}.`);
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, form);
    }
  });
}
for (const button of document.querySelectorAll("[data-complete]")) {
  button.addEventListener("click", guarded(async () => {
    try {
      await ask("POST", `/api/v1/products/${button.dataset.complete}/complete`);
      button.closest("tr").remove();
      say("✓ Complete.");
    } catch (refusal) { say(refusal.message, null, true); }
  }));
}
for (const button of document.querySelectorAll("[data-instead]")) {
  let key = newKey();
  button.addEventListener("click", guarded(async () => {
    const body = { register_id: Number(button.dataset.register), reference: button.dataset.reference, refund: button.dataset.instead };
    try {
      const done = await approved((approval) => {
        if (approval) key = newKey();
        return ask("POST", "/api/v1/cards/give-instead", approval ? { ...body, approval } : body, key);
      });
      button.closest("tr").remove();
      say(done.credit ? `✓ Given as store credit ${done.credit.code}, posted as ${done.number}.` : `✓ Give ${money(done.cash)} in cash, posted as ${done.number}.`);
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      say(refusal.message, null, true);
    }
  }));
}

for (const button of document.querySelectorAll("[data-prepare]")) {
  let key = newKey();
  button.addEventListener("click", guarded(async () => {
    try {
      const made = await ask("POST", `/api/v1/count-schedules/${button.dataset.prepare}/prepare`, { most: 0, counter_ids: [], blind: false }, key);
      location.href = "/counts/" + made.id;
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(document.getElementById("due-error"), refusal);
    }
  }));
}
