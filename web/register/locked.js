import { ask, onSubmit, showRefusal } from "./api.js";
import { values } from "./form.js";

const form = document.getElementById("come");
if (form) {
  const box = form.querySelector("[data-error]");
  onSubmit(form, async () => {
    showRefusal(box, null, form);
    const chosen = form.querySelector("input[type=radio]:checked");
    if (!chosen) { showRefusal(box, { message: "Choose who you are first." }); return; }
    try {
      await ask("POST", "/api/v1/at-register", values(form));
      location.href = document.getElementById("locked").dataset.to;
    } catch (refusal) {
      form.elements.pin.value = "";
      showRefusal(box, refusal, form);
      form.elements.pin.focus();
    }
  });
  form.addEventListener("change", (event) => { if (event.target.type === "radio") form.elements.pin.focus(); });
}
