import { approved } from "./approve.js";
import { ask, guarded, newKey, onSubmit, showRefusal } from "./api.js";
import { values, watched } from "./form.js";
import { say } from "./scanline.js";

const box = document.getElementById("form-error");
const fields = document.querySelector("[data-customer]");
if (fields) {
  const id = Number(fields.dataset.customer);
  const watch = watched(fields);
  const own = fields.querySelector("[data-error]");
  let key = newKey();
  onSubmit(fields, async () => {
    showRefusal(own, null, fields);
    const days = fields.elements.days_to_pay.value.trim();
    if (days && !/^\d+$/.test(days)) {
      showRefusal(own, { message: `“${days}” is not a number of days.`, field: "days_to_pay", want: "0 to 365, or nothing" }, fields);
      return;
    }
    const body = { ...values(fields), days_to_pay: days ? Number(days) : null };
    try {
      const saved = await approved((approval) => ask(id ? "PUT" : "POST", "/api/v1/customers" + (id ? "/" + id : ""), approval ? { ...body, approval } : body, key));
      key = newKey();
      watch.sent();
      if (!id) { location.href = "/customers/" + saved.id; return; }
      fields.elements.revision.value = saved.revision;
      document.querySelector("h1").textContent = saved.name;
      say("✓ Saved.");
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(own, refusal, fields);
    }
  });
}

const merge = document.getElementById("merge");
if (merge) onSubmit(merge, async () => {
  const card = /^\s*CU-?0*(\d+)\s*$/i.exec(merge.elements.other.value);
  if (!card) { showRefusal(box, { message: "That is not what a customer's card says.", want: "the other's card, such as CU-00042" }); return; }
  try {
    await ask("POST", `/api/v1/customers/${merge.dataset.id}/merge`, { other_id: Number(card[1]) });
    location.reload();
  } catch (refusal) { showRefusal(box, refusal, merge); }
});

const off = document.getElementById("pay-off");
if (off) {
  let key = newKey();
  onSubmit(off, async (event) => {
    showRefusal(box, null, off);
    try {
      await ask("POST", `/api/v1/registers/${off.dataset.register}/account-payments`, { customer_id: Number(off.dataset.id), kind: event.submitter?.value || "cash", amount: off.elements.amount.value.trim() || off.dataset.owes }, key);
      location.reload();
    } catch (refusal) {
      if (!refusal.lost && refusal.field !== "terminal") key = newKey();
      showRefusal(box, refusal, off);
    }
  });
}

// Forgetting asks once more, in the button itself.
const forget = document.getElementById("forget");
forget?.addEventListener("click", guarded(async () => {
  if (forget.dataset.sure !== "1") {
    forget.dataset.sure = "1";
    forget.textContent = "Press again to forget: nothing brings it back";
    return;
  }
  try {
    await ask("POST", `/api/v1/customers/${forget.dataset.id}/forget`);
    location.reload();
  } catch (refusal) { showRefusal(box, refusal); }
}));

const basket = document.getElementById("to-basket");
basket?.addEventListener("click", guarded(async () => {
  try {
    await ask("PATCH", `/api/v1/registers/${basket.dataset.register}/basket`, { customer_id: Number(basket.dataset.id) });
    location.href = "/register/" + basket.dataset.register;
  } catch (refusal) { showRefusal(box, refusal); }
}));
