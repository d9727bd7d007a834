// A yes on the spot: where a person may not do something alone, somebody who may types a PIN, and
// the deed goes on. People change at a register in the same way.
import { ask, guarded, make, Refusal, showRefusal } from "./api.js";

/** Asks for a person and a PIN over the page. Done gets both and may refuse; the dialog stays until it
 * is content. May is a deed that those who are offered must be allowed to do. It resolves to what done answers, or to null when nobody said yes. */
export async function withPIN(title, text, button, done, may) {
  const people = await ask("GET", "/api/v1/people/with-pin" + (may ? "?may=" + encodeURIComponent(may) : ""));
  return new Promise((finish) => {
    const dialog = make("dialog", { className: "pin-dialog", "aria-labelledby": "pin-title" });
    const who = make("select", { name: "person_id", className: "form-select" }, ...people.map((p) => make("option", { value: p.id, textContent: `${p.name} · ${p.role}` })));
    const last = sessionStorage.getItem("pin-person");
    if (people.some((p) => String(p.id) === last)) who.value = last;
    const pin = make("input", { name: "pin", type: "password", inputMode: "numeric", autocomplete: "off", className: "form-control mono", required: true });
    const box = make("p", { className: "field-error", role: "alert", hidden: true });
    const back = make("button", { type: "button", className: "act", textContent: "Back" });
    const form = make("form", { method: "dialog", className: "again" }, make("h2", { id: "pin-title", textContent: title }), make("p", { textContent: text }), box);
    if (people.length) form.append(make("label", {}, "Who", who), make("label", {}, "PIN", pin), make("div", { className: "inline" }, make("button", { className: "act first", textContent: button }), back));
    else form.append(make("p", { textContent: "Nobody who may has a PIN yet. Everybody sets their own under their name, How you sign in." }), back);
    dialog.append(form);
    const end = (answer) => { dialog.close(); dialog.remove(); finish(answer); };
    back.addEventListener("click", () => end(null));
    dialog.addEventListener("cancel", (event) => { event.preventDefault(); end(null); });
    who.addEventListener("change", () => pin.focus());
    const send = guarded(async () => {
      showRefusal(box, null, form);
      try {
        const answer = await done({ person_id: Number(who.value), pin: pin.value });
        sessionStorage.setItem("pin-person", who.value);
        end(answer);
      } catch (refusal) {
        pin.value = "";
        showRefusal(box, refusal, form);
        pin.focus();
      }
    });
    form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
    document.body.append(dialog);
    dialog.showModal();
    (people.length ? pin : back).focus();
  });
}

/** Does a deed; where it needs somebody's yes, asks for it and does the deed with that. What is refused for
 * another reason is thrown as ever; without a yes the first refusal is. */
export async function approved(deed) {
  try {
    return await deed(null);
  } catch (refusal) {
    if (refusal.field !== "approval") throw refusal;
    let other = null;
    const answer = await withPIN("A yes from somebody who may", refusal.message, "Say yes", async (approval) => {
      try {
        return { done: await deed(approval) };
      } catch (again) {
        if (["approval", "pin", "person_id"].includes(again.field)) throw again;
        other = again;
        return {};
      }
    }, refusal.value);
    if (other) throw other;
    if (!answer) throw new Refusal({ ...refusal, detail: refusal.message, want: "" });
    return answer.done;
  }
}
