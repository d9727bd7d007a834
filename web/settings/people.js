// People of the shop, one's own password, and tokens.
import { ask, guarded, showRefusal } from "./api.js";
import { values, watched } from "./form.js";
import { say } from "./scanline.js";

const box = document.getElementById("form-error");

/** Lets a form do a deed; what is refused is shown at its field. */
function deed(form, work) {
  if (!form) return;
  const watch = watched(form);
  const send = guarded(async () => {
    try {
      showRefusal(box, null, form);
      await work(values(form));
      watch.sent();
    } catch (refusal) { showRefusal(box, refusal, form); }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}

for (const form of document.querySelectorAll("[data-person]")) {
  const id = Number(form.dataset.person);
  deed(form, async (body) => {
    body.branches = [...form.querySelectorAll("[data-branch]:checked")].map((b) => Number(b.dataset.branch));
    const saved = await ask(id ? "PUT" : "POST", "/api/v1/people" + (id ? "/" + id : ""), body);
    if (id) form.elements.revision.value = saved.revision;
    if (id) { form.elements.password.value = form.elements.pin.value = ""; say("✓ Saved."); } else setTimeout(() => location.reload());
  });
}
deed(document.getElementById("password"), async (body) => {
  const done = await ask("POST", "/api/v1/me/password", body);
  document.getElementById("password").reset();
  say("✓ " + done.says);
});
deed(document.getElementById("pin"), async (body) => {
  const done = await ask("POST", "/api/v1/me/pin", body);
  document.getElementById("pin").reset();
  say("✓ " + done.says);
});
deed(document.getElementById("token"), async (body) => {
  const made = await ask("POST", "/api/v1/tokens", body);
  document.getElementById("made").textContent = made.token;
  say("Copy the token now: it is shown once.");
});
for (const button of document.querySelectorAll("[data-end-token]")) {
  button.addEventListener("click", guarded(async () => {
    try {
      await ask("DELETE", "/api/v1/tokens/" + button.dataset.endToken);
      button.closest("tr").remove();
      say("✓ The token has ended.");
    } catch (refusal) { showRefusal(box, refusal); }
  }));
}
