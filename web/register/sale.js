import { approved } from "./approve.js";
import { ask, guarded, newKey, onSubmit, showRefusal } from "./api.js";
import "./lock.js";
import { onScan } from "./scanline.js";

const box = document.getElementById("form-error");
const done = document.getElementById("done");
const next = document.getElementById("next");
if (next) {
  next.focus();
  // A scan on the finished sale begins the next basket.
  onScan(async (text) => {
    await ask("POST", `/api/v1/registers/${next.href.split("/").pop()}/basket/lines`, { code: text });
    location.href = next.href;
  });
}

/** Does something about the sale and says so in a line. */
async function doing(work, form) {
  try {
    const said = await work();
    showRefusal(box, null, form);
    done.hidden = false;
    done.textContent = "✓ " + said;
  } catch (refusal) { done.hidden = true; showRefusal(box, refusal, form); }
}

for (const [id, path, said] of [["reprint", "print", "Printed again."], ["gift", "gift", "A gift receipt without prices is printed."]]) {
  document.getElementById(id)?.addEventListener("click", guarded((event) => doing(() => ask("POST", `/api/v1/sales/${event.target.closest("button").dataset.number}/${path}`).then(() => said))));
}

const mail = document.getElementById("mail");
if (mail) onSubmit(mail, () => doing(() => ask("POST", `/api/v1/sales/${mail.dataset.number}/mail`, { to: mail.elements.to.value }).then(() => `Mailed to ${mail.elements.to.value}.`), mail));

let key = newKey();
document.getElementById("void")?.addEventListener("click", guarded((event) => doing(async () => {
  const number = event.target.dataset.number;
  const posted = await approved((approval) => {
    if (approval) key = newKey();
    return ask("POST", `/api/v1/sales/${number}/void`, { note: "", approval }, key);
  });
  event.target.disabled = true;
  const sign = document.createElement("span");
  sign.className = "low";
  sign.textContent = "▾ made void";
  document.querySelector(".head h1").after(sign);
  return `Sale ${number} is void; posted as ${posted.number}.` + (posted.owed ? " " + posted.owed : "");
})));
