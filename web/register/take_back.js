import { approved } from "./approve.js";
import { ask, guarded, make, newKey, showRefusal } from "./api.js";
import "./lock.js";
import { money } from "./money.js";
import { onScan } from "./scanline.js";

onScan((text) => { location.href = location.pathname + "?sale=" + encodeURIComponent(text); }, true);
const form = document.getElementById("return");
if (form) {
  let key = newKey();
  const register = Number(form.dataset.register);
  const box = form.querySelector("[data-error]");

  /** What comes back, as it is typed. */
  function backs() {
    if (form.dataset.variant) {
      const of = (name) => form.elements[name].value.trim();
      return [{ variant_id: Number(form.dataset.variant), quantity: of("quantity"), price: of("price"), cost: of("cost"), condition: of("condition"), serial: of("serial") }];
    }
    return [...form.querySelectorAll("[data-line]")].flatMap((row) => {
      const of = (name) => row.querySelector(`[data-f="${name}"]`)?.value.trim() || "";
      const line = { line: Number(row.dataset.line), quantity: of("quantity"), amount: of("amount"), condition: of("condition"), serials: of("serials"), lot_id: Number(of("lot_id")) };
      return line.quantity || line.amount ? [line] : [];
    });
  }

  /** A button that gives the customer in another way what the card was not given. */
  function instead(reference, how, line) {
    let own = newKey();
    const button = make("button", { type: "button", className: "act", textContent: how === "cash" ? "Give it in cash" : "Give it as store credit" });
    button.addEventListener("click", guarded(async () => {
      try {
        const given = await approved((approval) => {
          if (approval) own = newKey();
          return ask("POST", "/api/v1/cards/give-instead", { register_id: register, reference, refund: how, ...(approval && { approval }) }, own);
        });
        line.replaceChildren(given.credit ? `✓ Given as store credit ${given.credit.code}. ` : `✓ Give ${money(given.cash)} in cash. `, make("a", { href: "/documents/" + given.number, textContent: given.number }));
      } catch (refusal) {
        if (!refusal.lost) own = newKey();
        showRefusal(box, refusal, form);
      }
    }));
    return button;
  }

  const send = guarded(async () => {
    showRefusal(box, null, form);
    const refund = form.querySelector('[name="refund"]:checked').value;
    const what = form.dataset.variant ? { unsold: backs() } : { sale: form.dataset.sale, lines: backs() };
    try {
      const done = await approved((approval) => {
        if (approval) key = newKey();
        return ask("POST", "/api/v1/returns", { register_id: register, ...what, refund, ...(approval && { approval }) }, key);
      });
      const said = done.paid.filter((t) => t.kind !== "rounding").map((t) => `${money(String(t.amount).replace("-", ""))} ${{ cash: "in cash", card: "to the card" }[t.kind] || "as " + t.kind}${t.code ? ` ${t.code}` : ""}`);
      for (const field of form.querySelectorAll("input, select, button")) field.disabled = true;
      const line = form.querySelector("[data-done]");
      line.hidden = false;
      line.replaceChildren(`✓ Give back ${said.join(" and ") || "nothing"}. Posted as `, make("a", { href: "/returns/" + done.number, textContent: done.number }), ". ", done.owed || "", done.printer || "");
      for (const reference of done.owed_for || []) line.append(" ", ...["cash", "store credit"].map((how) => instead(reference, how, line)));
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, form);
    }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });

  document.getElementById("exchange").addEventListener("click", guarded(async () => {
    showRefusal(box, null, form);
    try {
      await approved((approval) => ask("POST", `/api/v1/registers/${register}/basket/backs`, { backs: backs().map(({ serial, ...b }) => ({ ...b, ...(serial && { serials: serial }), sale: form.dataset.sale || "", ...(approval && { approval }) })) }));
      location.href = "/register/" + register;
    } catch (refusal) { showRefusal(box, refusal, form); }
  }));
  form.querySelector("input:not([type=hidden])")?.focus();
}
