import { ask, guarded, make, newKey, onSubmit, showRefusal } from "./api.js";
import { savedForms, whole } from "./form.js";

const box = document.getElementById("form-error");
savedForms("[data-schedule]", (form) => "/api/v1/count-schedules" + (Number(form.dataset.schedule) ? "/" + form.dataset.schedule : ""),
  (form) => (Number(form.dataset.schedule) ? "PUT" : "POST"));
for (const form of document.querySelectorAll("[data-prepare]")) {
  let key = newKey();
  onSubmit(form, async () => {
    try {
      const made = await ask("POST", `/api/v1/count-schedules/${form.dataset.prepare}/prepare`, { most: whole(form.elements.most.value), counter_ids: [], blind: false }, key);
      location.href = "/counts/" + made.id;
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, form);
    }
  });
}
document.getElementById("calendar")?.addEventListener("click", guarded(async () => {
  try {
    const { path } = await ask("POST", "/api/v1/me/calendar");
    const address = location.origin + path;
    const said = document.getElementById("calendar-said");
    said.replaceChildren("Give this address to your calendar: ", make("a", { href: path, className: "mono", textContent: address }), ". It is shown once, and whoever has it can read it; a new one ends the one before.");
    said.hidden = false;
  } catch (refusal) { showRefusal(box, refusal); }
}));
