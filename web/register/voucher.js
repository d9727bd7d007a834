import { ask, guarded, showRefusal } from "./api.js";

document.getElementById("block")?.addEventListener("click", guarded(async (event) => {
  try {
    await ask("PUT", "/api/v1/vouchers/" + event.target.dataset.code, { blocked: event.target.dataset.blocked === "true" });
    location.reload();
  } catch (refusal) { showRefusal(document.getElementById("form-error"), refusal); }
}));
