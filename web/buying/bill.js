// Bills of suppliers: begun, held against what came, posted, paid; and credit notes.
import { ask, guarded, newKey, part, showRefusal, onSubmit } from "./api.js";
import { redraw, sent, values, watched } from "./form.js";

const box = document.getElementById("form-error");

const fresh = document.getElementById("bill-new");
if (fresh) {
  const carrier = "carrier" in fresh.dataset;
  fresh.elements.supplier_id.addEventListener("change", () => {
    if (!carrier) location.href = "?supplier=" + fresh.elements.supplier_id.value;
  });
  let key = newKey();
  onSubmit(fresh, async () => {
    showRefusal(box, null, fresh);
    const deliveries = [...fresh.querySelectorAll("[data-delivery]:checked")].map((b) => Number(b.dataset.delivery));
    try {
      const made = await ask("POST", "/api/v1/bills", { ...values(fresh), delivery_ids: deliveries, carrier }, key);
      location.href = "/buying/bills/" + made.id;
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, fresh);
    }
  });
}

const form = document.getElementById("bill");
if (form) {
  const holder = document.getElementById("lines");
  const saved = document.getElementById("saved");
  const id = form.dataset.id;
  const text = (row, name) => sent(row.querySelector(`[data-f="${name}"]`));
  const lines = () => [...holder.querySelectorAll("[data-line]")].map((row) => ({
    delivery_line_id: Number(row.dataset.delivery), order_line_id: Number(row.dataset.order), quantity: text(row, "quantity"), each: text(row, "each"), net: text(row, "net"),
    dearer: row.dataset.dearer || "", missing: row.dataset.missing || "",
  }));
  let turn = Promise.resolve();
  let waiting = 0;
  /** Keeps the draft, and draws what it comes to. */
  function save() {
    waiting++;
    saved.textContent = "keeping …";
    turn = turn.then(async () => {
      let done = false;
      try {
        const kept = await ask("PUT", "/api/v1/bills/" + id, { ...values(form), supplier_id: Number(form.dataset.supplier), revision: Number(form.dataset.revision),
          delivery_ids: JSON.parse(form.dataset.deliveries), lines: lines(), carrier: holder.querySelector("[data-line]") === null });
        form.dataset.revision = kept.revision;
        redraw(holder, await part(`/buying/bills/${id}/lines`));
        showRefusal(box, null, document);
        done = true;
      } catch (refusal) { showRefusal(box, refusal, document); }
      if (--waiting === 0) saved.textContent = done ? "· draft, kept" : "· the last change is not kept";
      return done;
    });
    return turn;
  }
  form.addEventListener("change", save);
  form.addEventListener("submit", (event) => event.preventDefault());
  holder.addEventListener("change", (event) => {
    const row = event.target.closest("[data-line]") || holder.querySelector(`[data-line="${event.target.dataset.of}"]`);
    if (!row) return;
    if (event.target.dataset.then) row.dataset[event.target.dataset.then] = event.target.value;
    if (["each", "quantity"].includes(event.target.dataset.f)) row.querySelector('[data-f="net"]').value = "";
    if (event.target.dataset.f === "net") row.querySelector('[data-f="each"]').value = "";
    save();
  });
  holder.addEventListener("click", (event) => {
    const button = event.target.closest("[data-drop]");
    if (!button) return;
    button.closest("[data-line]").querySelector('[data-f="quantity"]').value = "";
    save();
  });
  let key = newKey();
  document.getElementById("post").addEventListener("click", guarded(async () => {
    document.activeElement?.blur?.();
    if (!(await save())) return;
    try {
      await ask("POST", `/api/v1/bills/${id}/post`, undefined, key);
      location.reload();
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, document);
    }
  }));
  document.getElementById("drop").addEventListener("click", guarded(async () => {
    try {
      await ask("DELETE", "/api/v1/bills/" + id);
      location.href = "/buying/bills";
    } catch (refusal) { showRefusal(box, refusal); }
  }));
}

const pay = document.getElementById("pay");
if (pay) {
  const watch = watched(pay);
  const chosen = () => [...pay.querySelectorAll("[data-bill]")].filter((row) => row.querySelector("[type=checkbox]").checked);
  const sum = document.getElementById("pay-sum");
  const parts = () => chosen().map((row) => ({ bill_id: Number(row.dataset.bill), amount: row.querySelector("[data-amount]").value.trim() }));
  const body = () => {
    const from = pay.elements.from.selectedOptions[0];
    return { supplier_id: Number(pay.dataset.supplier), from: from.value, register_id: Number(from.dataset.register || 0), paid_on: pay.elements.paid_on.value,
      note: pay.elements.note.value, parts: parts() };
  };
  let turn = 0;
  const add = async () => {
    if (!sum) return;
    const mine = ++turn;
    const text = parts().length ? await ask("POST", "/api/v1/payments/sum", body()).then((s) => s.text, () => "") : "";
    if (mine === turn) sum.textContent = text;
  };
  pay.addEventListener("change", add);
  add();
  let key = newKey();
  onSubmit(pay, async () => {
    showRefusal(box, null, pay);
    try {
      await ask("POST", "/api/v1/payments", body(), key);
      watch.sent();
      location.href = "/buying/bills";
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, pay);
    }
  });
}

for (const credit of document.querySelectorAll("form.credit")) {
  onSubmit(credit, async () => {
    try {
      await ask("POST", "/api/v1/credit-notes", { ...values(credit), credit_id: Number(credit.dataset.credit) });
      location.reload();
    } catch (refusal) { showRefusal(box, refusal, credit); }
  });
}
