// The register: scans and picks go to the basket, which the server keeps and
// computes; this module only shows what came back.
import { approved } from "./approve.js";
import { ask, askAbout, guarded, make, part, showRefusal } from "./api.js";
import { changePerson } from "./lock.js";
import { figure, money, plural, units } from "./money.js";
import { panelsIn, reading } from "./register_panels.js";
import { paying } from "./register_pay.js";
import { focusScan, missed, offer, onScan, say } from "./scanline.js";
import { settleTab } from "./rack.js";
import { showTag } from "./swingtag.js";

const root = document.getElementById("register");
const register = root.dataset.register;
const reasons = new Map(JSON.parse(document.getElementById("reasons-data").textContent).map((r) => [r.id, r.name]));

document.getElementById("person").addEventListener("click", () => changePerson());
if (root.dataset.open) start();

function start() {
  const base = `/api/v1/registers/${register}/basket`;
  const box = document.getElementById("form-error");
  const list = document.getElementById("basket");
  const picked = document.getElementById("picked");
  const till = { register, base, box, basket: JSON.parse(document.getElementById("basket-data").textContent), draw, refused, line: 0 };
  askAbout(base, () => till.basket.id);
  const panels = panelsIn(root, rest);
  const pay = paying(till, panels);
  reading(till, panels);

  /** Where the caret goes when nothing else needs it: to the scan line, but not on a phone, where
   * that would bring up the keys. */
  function rest() { if (!matchMedia("(pointer: coarse)").matches) focusScan(); }

  function refused(refusal) { showRefusal(box, refusal); say(refusal.message, null, true); other(refusal); }

  /** Shows the basket that the register is at where a deed was about another. */
  async function other(refusal) { if (refusal.field === "basket_id") draw(await ask("GET", base)); }

  // --- drawing ------------------------------------------------------------
  function draw(next, touched) {
    till.basket = next;
    hang([...next.lines.map(kept), ...next.vouchers.map(voucher), ...next.backs.map(back)]);
    const count = next.lines.length + next.vouchers.length + next.backs.length;
    document.getElementById("strip-empty").hidden = count > 0;
    const facts = [];
    if (next.lines.length) facts.push(`${plural(next.lines.length, "line", "lines")} · ${plural(next.totals.units, "unit", "units")}`);
    if (next.price_list) facts.push(`at the prices of ${next.price_list}`);
    if (next.off) facts.push(`${next.off} off: −${figure(next.off_amount)}`);
    if (next.note) facts.push("noted");
    document.getElementById("facts").textContent = facts.join(" · ") || (count ? "" : "nothing yet");
    document.getElementById("taxes").textContent = next.lines.length ? "tax in it " + money(next.totals.tax) : "";
    document.getElementById("clear").disabled = count === 0;
    pay.draw();
    hold(next.held);
    clip(next.customer);
    if (touched) till.line = touched;
    const line = list.querySelector(`[data-line="${touched || ""}"]`);
    if (line) {
      for (const other of list.children) other.classList.toggle("on", other === line);
      requestAnimationFrame(() => {
        line.scrollIntoView({ block: "nearest" });
        setTimeout(() => showTag(Number(line.dataset.variant))); // the line first
      });
    }
  }

  function where(l) {
    if (l.tracking === "not stocked") return [];
    const places = l.places || [];
    const said = [`${units(l.here)} here`];
    for (const p of places.slice(0, 2)) said.push(`${units(p.quantity)} ${p.name}${p.minutes > 0 ? `, ${p.minutes} min` : ""}`);
    if (places.length > 2) said.push(`${places.length - 2} more`);
    return said;
  }

  // What hangs where it is to hang is left there: the page is laid out anew for what changed alone.
  function hang(elements) {
    elements.forEach((element, i) => { if (list.children[i] !== element) list.insertBefore(element, list.children[i] || null); });
    while (list.children.length > elements.length) list.lastChild.remove();
  }

  // A line that did not change keeps its row.
  const rows = new Map();
  function kept(l) {
    const text = JSON.stringify(l);
    const before = rows.get(l.id);
    if (before?.text === text) { before.element.classList.remove("on"); return before.element; }
    const element = row(l);
    rows.set(l.id, { text, element });
    return element;
  }

  function row(l) {
    const quantity = make("input", { value: units(l.quantity), inputMode: "decimal", className: "num", "aria-label": `Units of ${l.name} ${l.detail}`, disabled: l.tracking === "serial" });
    quantity.addEventListener("change", () => changeLine(l.id, { quantity: quantity.value }, quantity));
    quantity.addEventListener("keydown", (event) => {
      if (event.key === "Escape") { event.preventDefault(); quantity.value = units(l.quantity); quantity.blur(); }
      if (event.key === "Enter") { event.preventDefault(); quantity.blur(); rest(); }
    });
    const facts = make("small", {});
    const words = [l.pack ? "× " + l.pack : "", l.detail, ...where(l)];
    const choosing = (l.lot_choices || []).length > 1;
    if (!choosing) words.push(...(l.lots || []));
    facts.append(words.filter(Boolean).join(" · "));
    const name = make("div", {}, l.name, facts);
    if (l.tracking === "serial") facts.append(" ", serials(l));
    if (choosing) facts.append(" ", lots(l));
    if (l.conditions) facts.append(" ", conditions(l));
    if (Number(l.off_amount) > 0 && l.off) name.append(make("small", { className: "cut", textContent: `−${figure(l.off_amount)}: ${[l.off, reasons.get(l.off_reason_id)].filter(Boolean).join(", ")}` }));
    if (Number(l.carried) > 0) name.append(make("small", { className: "cut", textContent: `−${figure(l.carried)}: discount of the basket it was on` }));
    if (l.price_list) name.append(make("small", { className: "noted", textContent: `at the prices of ${l.price_list}` }));
    if (l.list_price) name.append(make("small", { className: "cut", textContent: `instead of ${figure(l.list_price)}: ${reasons.get(l.price_reason_id) || ""}` }));
    if (l.note) name.append(make("small", { className: "noted", textContent: `“${l.note}”` }));
    if (l.short) name.append(make("small", { className: "short-note", textContent: "✗ " + l.short }));
    const edit = make("button", { type: "button", className: "edit", textContent: "⋯", title: "Price, discount, note", "aria-label": `Change ${l.name} ${l.detail}` });
    edit.addEventListener("click", () => panels.show("line", l));
    const line = make("li", { className: "line" }, quantity, name, make("span", { className: "num each", textContent: figure(l.price) }), make("b", { className: "num", textContent: figure(l.total) }), edit, off(`Take ${l.name} ${l.detail} off`, () => changeLine(l.id, { quantity: "0" })));
    line.dataset.line = l.id;
    line.dataset.variant = l.variant_id;
    line.addEventListener("focusin", () => { till.line = l.id; for (const other of list.children) other.classList.toggle("on", other === line); showTag(l.variant_id); });
    return line;
  }

  function off(label, work) {
    const button = make("button", { type: "button", className: "off", textContent: "×", title: "Take it off", "aria-label": label });
    button.addEventListener("click", guarded(async () => { await work(); rest(); }));
    return button;
  }

  function serials(l) {
    const select = make("select", { "aria-label": `Serial number of ${l.name}` }, make("option", { value: "", textContent: "choose its number" }),
      ...[...new Set([...(l.choices || []), ...(l.serials || [])])].map((n) => make("option", { value: n, textContent: n, selected: (l.serials || []).includes(n) })),
      make("option", { value: "owe", textContent: "owe the number: give it later", selected: Boolean(l.owed) }));
    select.addEventListener("change", () => changeLine(l.id, select.value === "owe" ? { owed: true } : { serial: select.value, owed: false }));
    return select;
  }

  function conditions(l) {
    const select = make("select", { "aria-label": `Condition of ${l.name}` }, ...l.conditions.map((c) => make("option", { value: c, textContent: c === "For sale" ? "as new" : "as " + c, selected: c === l.condition })));
    select.addEventListener("change", () => changeLine(l.id, { condition: select.value }));
    return select;
  }

  function lots(l) {
    const select = make("select", { "aria-label": `Lot of ${l.name}` }, make("option", { value: 0, textContent: `proposed: ${(l.lots || []).join(", ")}` }),
      ...l.lot_choices.map((c) => make("option", { value: c.id, textContent: `${c.label}: ${units(c.here)} here`, selected: c.id === l.lot_id })));
    select.addEventListener("change", () => changeLine(l.id, { lot_id: Number(select.value) }));
    return select;
  }

  function voucher(amount, n) {
    return make("li", { className: "line extra" }, make("span", {}), make("div", {}, "Voucher to give", make("small", { textContent: "its code is printed on the receipt" })), make("span", { className: "each" }),
      make("b", { className: "num", textContent: figure(amount) }), make("span", {}), off(`Take the voucher of ${money(amount)} off`, () => change("DELETE", `${base}/vouchers/${n}`)));
  }

  function back(b) {
    const name = make("div", {}, `Back: ${b.name}`, make("small", { textContent: [b.detail, b.sale ? "of " + b.sale : "without a receipt", b.condition, ...(b.serials || [])].filter(Boolean).join(" · ") }));
    if (b.short) name.append(make("small", { className: "short-note", textContent: "✗ " + b.short }));
    return make("li", { className: "line extra" }, make("span", { className: "num", textContent: units(b.quantity) }), name, make("span", { className: "each" }),
      make("b", { className: "num", textContent: "−" + figure(b.amount) }), make("span", {}), off(`Take ${b.name} that comes back off`, () => change("DELETE", `${base}/backs/${b.id}`)));
  }

  let hung = "";
  function hold(held) {
    const rail = document.getElementById("held");
    const busy = till.basket.lines.length + till.basket.vouchers.length + till.basket.backs.length > 0;
    const text = JSON.stringify([held, busy]);
    if (text === hung) return;
    hung = text;
    rail.hidden = held.length === 0;
    rail.replaceChildren(...held.map((h) => {
      const up = make("button", { type: "button", className: "held-slip", title: `Put by at ${h.register} by ${h.by}` }, make("b", { textContent: h.name }), make("small", { textContent: `${h.lines} ${h.lines === 1 ? "line" : "lines"} · ${h.by}` }));
      up.addEventListener("click", () => change("POST", base + "/take-up", { basket_id: h.id, merge: false }));
      const slip = make("li", {}, up);
      if (busy) {
        const join = make("button", { type: "button", className: "held-join", textContent: "+", title: "Make it one with this basket", "aria-label": `Make ${h.name} one with this basket` });
        join.addEventListener("click", () => change("POST", base + "/take-up", { basket_id: h.id, merge: true }));
        slip.append(join);
      }
      return slip;
    }));
  }

  function clip(c) {
    const slip = document.getElementById("clip");
    slip.hidden = !c;
    if (!c) { slip.replaceChildren(); return; }
    const facts = [c.code];
    if (c.on_account) facts.push(Number(c.owes) > 0 ? `owes ${money(c.owes)} on account` : "may pay later");
    if (Number(c.store_credit) > 0) facts.push(`store credit ${money(c.store_credit)}`);
    slip.replaceChildren(make("a", { href: `/customers/${c.id}`, textContent: c.name }), make("small", { textContent: facts.join(" · ") }),
      off(`Take ${c.name} off the basket`, () => change("PATCH", base, { customer_id: 0 })));
  }

  // --- changing -----------------------------------------------------------
  /** Does something to the basket and shows what came of it. */
  async function change(method, path, body) {
    try {
      const next = await approved((approval) => ask(method, path, approval ? { ...body, approval } : body));
      showRefusal(box, null);
      draw(next);
      if (next.said) say(next.said);
      return next;
    } catch (refusal) { refused(refusal); return null; }
  }
  till.change = change;

  async function changeLine(id, body, input) {
    try {
      const next = await ask("PATCH", `${base}/lines/${id}`, body);
      showRefusal(box, null);
      draw(next, id);
      say(next.said);
    } catch (refusal) {
      rows.delete(id); // what was chosen and refused is drawn anew with the next answer
      refused(refusal);
      if (input?.isConnected) { input.setAttribute("aria-invalid", "true"); input.focus(); input.select(); }
    }
  }

  async function add(body) {
    try {
      const next = await ask("POST", `${base}/lines`, body);
      showRefusal(box, null);
      draw(next, next.line_id);
      if (next.receipt) { location.href = `/register/${register}/take-back?sale=${encodeURIComponent(next.receipt)}`; return; }
      if (next.credit) { await pay.withCredit(next.credit); return; }
      if (next.pick) { await rack(next.pick.id); return; }
      if (next.offers) { offer(next.offers, (f) => rack(f.id)); return; }
      const before = next.before;
      say(next.said, next.line_id ? () => changeLine(next.line_id, { quantity: before }) : null);
    } catch (refusal) {
      showRefusal(box, refusal);
      await other(refusal);
      if (refusal.status === 404 && body.code) {
        const button = make("button", { type: "button", className: "act", textContent: "Make a product of it" });
        button.addEventListener("click", () => panels.show("make", { code: body.code }));
        refusal.more = button;
      }
      await missed(body.code || "", refusal);
    }
  }
  till.add = add;
  onScan((text) => {
    if (pay.open()) return pay.scanned(text) || Promise.resolve(say("Finish the payment first, or go back.", null, true));
    return add({ code: text, line_id: till.line });
  }, true);

  // --- picking ---------------------------------------------------------
  const shelves = [...root.querySelectorAll("[data-tiles]")];
  let page = "0";
  function back2tiles() {
    picked.replaceChildren();
    for (const s of shelves) s.hidden = s.dataset.tiles !== page;
  }
  function away() { for (const s of shelves) s.hidden = true; }
  async function rack(product) {
    picked.innerHTML = await part(`/register/${register}/rack/${product}`);
    away();
    const cells = [...picked.querySelectorAll(".rack-cell")];
    if (cells.length === 1) { await add({ variant_id: Number(cells[0].dataset.variant) }); back2tiles(); return; }
    for (const r of picked.querySelectorAll(".rack")) settleTab(r);
    cells[0]?.focus();
  }
  root.querySelector('[role="tablist"]')?.addEventListener("click", (event) => {
    const tab = event.target.closest("[data-page]");
    if (!tab) return;
    page = tab.dataset.page;
    for (const t of tab.parentElement.children) t.setAttribute("aria-selected", String(t === tab));
    back2tiles();
  });
  document.getElementById("picker").addEventListener("click", async (event) => {
    if (event.target.closest("[data-back]")) { back2tiles(); rest(); return; }
    const tile = event.target.closest(".tile");
    if (!tile) return;
    if (tile.dataset.product) { await rack(tile.dataset.product); return; }
    picked.innerHTML = `<div class="deliver-head"><h2></h2><button type="button" class="act ms-auto" data-back>Back <kbd>Esc</kbd></button></div>` + (await part(`/register/${register}/products?category=${tile.dataset.category}`));
    picked.querySelector("h2").textContent = tile.querySelector("span").textContent;
    away();
    picked.querySelector(".tile")?.focus();
  });
  picked.addEventListener("rack-take", (event) => add({ variant_id: event.detail.variant }).then(back2tiles).then(rest));

  document.addEventListener("keydown", (event) => {
    if (document.querySelector("dialog[open]")) return;
    if (event.key === "Escape" && !event.defaultPrevented) {
      if (!panels.close() && picked.childElementCount) { back2tiles(); rest(); }
    }
    if (event.altKey && event.key.toLowerCase() === "l") {
      event.preventDefault();
      const l = till.basket.lines.find((x) => x.id === till.line) || till.basket.lines.at(-1);
      if (l) panels.show("line", l);
    }
  });
  root.addEventListener("click", (event) => {
    const name = event.target.closest("[data-show]")?.dataset.show;
    if (name) panels.show(name);
    if (event.target.closest("[data-close]")) panels.close();
  });

  draw(till.basket, till.basket.lines.at(-1)?.id);
  const wanted = new URLSearchParams(location.search).get("show");
  if (wanted) panels.show(wanted);
}
