import { ask, guarded, showRefusal } from "./api.js";

for (const button of document.querySelectorAll("[data-device]")) {
  button.addEventListener("click", guarded(async () => {
    try {
      await ask("PUT", "/api/v1/devices/" + encodeURIComponent(button.dataset.device), { state: button.dataset.state });
      location.reload();
    } catch (refusal) { showRefusal(document.getElementById("form-error"), refusal); }
  }));
}
