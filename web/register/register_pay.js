// Paying at the register: cash, card, several ways at once, and what is given back.
import { approved } from "./approve.js";
import { ask, guarded, make, newKey, showRefusal } from "./api.js";
import { money, typed } from "./money.js";
import { say } from "./scanline.js";

const negative = (amount) => String(amount).startsWith("-");
const zero = (amount) => /^-?0*(\.0*)?$/.test(String(amount));
const positive = (amount) => !negative(amount) && !zero(amount);

/** Lets a till be paid at. */
export function paying(till, panels) {
  const at = (id) => document.getElementById(id);
  const handed = at("handed");
  const buttons = { other: at("other"), card: at("card"), cash: at("cash") };
  let ways = [];

  // One key for each basket, kept over a reload: a sale whose answer was lost is not posted twice.
  const stored = () => "pay-" + till.basket.id;
  const key = () => {
    if (!sessionStorage.getItem(stored())) sessionStorage.setItem(stored(), newKey());
    return sessionStorage.getItem(stored());
  };
  const anew = () => sessionStorage.removeItem(stored());

  function draw() {
    const b = till.basket;
    const something = b.lines.length + b.vouchers.length + b.backs.length > 0;
    at("total").textContent = money(negative(b.due) ? String(b.due).slice(1) : b.due);
    at("total-name").textContent = negative(b.due) ? "to give back" : b.due_cash !== b.due && something && !zero(b.due) ? `to pay, in cash ${money(b.due_cash)}` : "to pay";
    const name = (id, text, k) => buttons[id].replaceChildren(text + " ", make("kbd", { textContent: k }));
    name("cash", positive(b.due) || !something ? "Cash" : negative(b.due) ? "Give back" : "Post", "F8");
    buttons.card.hidden = buttons.other.hidden = something && !positive(b.due);
    for (const button of Object.values(buttons)) button.disabled = !something;
    if (panels.open() === "cash") figureChange();
    if (panels.open() === "ways") figureWays();
  }

  // --- cash ---------------------------------------------------------------
  function openCash() {
    const b = till.basket;
    if (buttons.cash.disabled) return;
    if (negative(b.due)) { openRefund(); return; }
    if (zero(b.due)) { post({}); return; }
    at("notes").replaceChildren(...b.notes.map((n, i) => {
      const button = make("button", { type: "button", className: "act", textContent: i ? money(n) : "exactly " + money(n) });
      button.addEventListener("click", () => {
        handed.value = typed(n);
        if (i === 0) { payCash(); return; }
        figureChange();
        handed.focus();
      });
      return button;
    }));
    handed.value = "";
    handed.placeholder = typed(b.due_cash);
    at("change").textContent = "";
    panels.show("cash");
    handed.focus();
  }
  let turn = 0;
  async function figureChange() {
    const mine = ++turn;
    const said = at("change");
    if (handed.value.trim() === "") { said.textContent = ""; return; }
    try {
      const left = await ask("POST", `${till.base}/left`, { tenders: [{ kind: "cash", amount: handed.value }] });
      if (mine === turn) said.textContent = left.done ? `change ${money(left.change)}` : `${money(left.left_in_cash)} short`;
    } catch { if (mine === turn) said.textContent = ""; }
  }
  handed.addEventListener("input", figureChange);
  const payCash = () => post({ cash: handed.value.trim() || handed.placeholder });
  panels.form("cash").addEventListener("submit", (event) => { event.preventDefault(); payCash(); });

  // --- several ways ---------------------------------------------------------
  const form = panels.form("ways");
  const amount = form.elements.amount;
  const code = form.elements.voucher;
  async function openWays() {
    if (buttons.other.hidden || buttons.other.disabled) return;
    ways = [];
    amount.value = code.value = "";
    const c = till.basket.customer;
    at("way-account").hidden = !c?.on_account;
    at("way-credits").replaceChildren(...(c?.credits || []).map((credit) => {
      const button = make("button", { type: "button", className: "act", textContent: `${credit.code}: ${money(credit.balance)}` });
      button.addEventListener("click", () => tryWay({ kind: credit.kind, code: credit.code, amount: "" }));
      return button;
    }));
    panels.show("ways");
    await figureWays();
    amount.focus();
  }
  /** Asks what is left after all ways so far and one more; the one more stays only if it fits. */
  async function figureWays(more) {
    try {
      const left = await ask("POST", `${till.base}/left`, { tenders: more ? [...ways, more] : ways });
      ways = left.tenders.map((t) => ({ kind: t.kind, amount: t.amount, code: t.code || "" }));
      showRefusal(till.box, null);
      at("left").textContent = left.done ? (positive(left.change) ? `nothing, change ${money(left.change)}` : "nothing") : money(left.left) + (left.left !== left.left_in_cash ? `, in cash ${money(left.left_in_cash)}` : "");
      at("ways").replaceChildren(...ways.map((w, i) => {
        const drop = make("button", { type: "button", className: "off", textContent: "×", "aria-label": `Take ${w.kind} ${money(w.amount)} away` });
        drop.addEventListener("click", () => { ways.splice(i, 1); figureWays().then(() => amount.focus()); });
        return make("li", {}, `${w.kind} ${w.code} `, make("b", { className: "mono", textContent: money(w.amount) }), drop);
      }));
      at("post-ways").disabled = !left.done;
      if (left.done) at("post-ways").focus();
      return true;
    } catch (refusal) {
      till.refused(refusal);
      const field = refusal.field === "voucher" ? code : amount;
      field.setAttribute("aria-invalid", "true");
      field.focus();
      field.select();
      return false;
    }
  }
  const tryWay = guarded(async (way) => {
    amount.removeAttribute("aria-invalid");
    code.removeAttribute("aria-invalid");
    if (await figureWays(way)) {
      amount.value = code.value = "";
      if (at("post-ways").disabled) amount.focus();
    }
  });
  form.addEventListener("click", (event) => {
    const kind = event.target.closest("[data-way]")?.dataset.way;
    if (kind) tryWay({ kind, amount: amount.value, code: kind === "voucher" ? code.value : "" });
  });
  form.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" || event.target.tagName !== "INPUT") return;
    event.preventDefault();
    if (event.target === code || code.value.trim()) tryWay({ kind: "voucher", amount: amount.value, code: code.value });
    else tryWay({ kind: "cash", amount: amount.value, code: "" });
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); post({ tenders: ways }); });

  // --- giving back ----------------------------------------------------------
  function openRefund() {
    at("refund-says").textContent = `${money(String(till.basket.due).slice(1))} go back.`;
    panels.show("refund");
    panels.form("refund").querySelector("button").focus();
  }
  panels.form("refund").addEventListener("submit", (event) => { event.preventDefault(); post({ refund: event.submitter?.dataset.refund || "" }); });

  // --- posting ----------------------------------------------------------------
  const post = guarded(async (how) => {
    showRefusal(till.box, null);
    const all = document.querySelectorAll("#pay button, .panel:not([hidden]) button");
    for (const b of all) b.disabled = true;
    try {
      const basket = till.basket;
      const done = await approved((approval) => {
        if (approval) anew();
        return ask("POST", "/api/v1/sales", { register_id: Number(till.register), basket_id: basket.id, total: basket.due, ...how, ...(approval && { approval }) }, key());
      });
      anew();
      const query = new URLSearchParams();
      if (done.printer) query.set("printer", done.printer);
      const owed = (done.returns || []).map((r) => r.owed).filter(Boolean).join(" ");
      if (owed) query.set("owed", owed);
      if (done.document_id && done.returns?.length) query.set("back", done.returns.map((r) => r.number).join(","));
      location.href = (done.document_id ? "/sales/" : "/returns/") + done.number + (query.size ? "?" + query : "");
    } catch (refusal) {
      // Without an answer the same request is asked again: the card is charged once.
      if (!refusal.lost && refusal.field !== "terminal") anew();
      for (const b of all) b.disabled = false;
      if (refusal.field === "total" || refusal.field === "basket_id") till.draw(await ask("GET", till.base));
      draw();
      till.refused(refusal);
      if (panels.open() === "cash") handed.focus();
      else if (panels.open() === "ways") amount.focus();
      else buttons.card.focus();
    }
  });
  const payCard = () => { if (!buttons.card.disabled && !buttons.card.hidden) post({ card: till.basket.due }); };

  buttons.card.addEventListener("click", payCard);
  buttons.cash.addEventListener("click", openCash);
  buttons.other.addEventListener("click", openWays);
  at("pay").addEventListener("submit", (event) => event.preventDefault());
  document.addEventListener("keydown", (event) => {
    if (document.querySelector("dialog[open]")) return;
    const work = { F7: openWays, F8: openCash, F9: payCard }[event.key];
    if (work) { event.preventDefault(); work(); }
  });

  return {
    draw,
    /** Whether somebody is paying just now. */
    open: () => ["cash", "ways", "refund"].includes(panels.open()),
    /** Takes a scan while somebody is paying: only a voucher's code means something then. */
    scanned: (text) => (panels.open() === "ways" && /^\s*(VO|SC)/i.test(text) ? tryWay({ kind: "voucher", amount: "", code: text }) : null),
    /** Pays with a voucher whose code was scanned. */
    async withCredit(text) {
      if (buttons.other.disabled || buttons.other.hidden) { say(`${text}: scan what is to be paid with it first.`, null, true); return; }
      await openWays();
      await tryWay({ kind: "voucher", amount: "", code: text });
    },
  };
}
