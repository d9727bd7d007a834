// The panels of the register: each opens under the basket and closes with Escape; one at a time.
import { approved } from "./approve.js";
import { ask, guarded, make, newKey, part, showRefusal } from "./api.js";
import { values } from "./form.js";
import { lock } from "./lock.js";
import { money, typed } from "./money.js";
import { isCode, say } from "./scanline.js";

/** The panels in the page. Closed is called when one closes and the caret has nowhere to be. */
export function panelsIn(root, closed) {
  const all = new Map([...root.querySelectorAll("[data-panel]")].map((p) => [p.dataset.panel, p]));
  const openers = new Map();
  let current = "";
  // Enter keeps what is said, also where a reason was chosen last.
  root.addEventListener("keydown", (event) => {
    const form = event.key === "Enter" && event.target.matches("[data-panel] select") && event.target.form;
    if (form) { event.preventDefault(); form.requestSubmit(); }
  });
  return {
    form: (name) => all.get(name),
    open: () => current,
    /** What is to be done before a panel shows. */
    before: (name, work) => openers.set(name, work),
    show(name, about) {
      if (!all.has(name)) return;
      for (const p of all.values()) p.hidden = true;
      for (const box of all.get(name).querySelectorAll("[data-error]")) showRefusal(box, null, all.get(name));
      current = name;
      if (openers.get(name)?.(about) === false) { current = ""; return; }
      all.get(name).hidden = false;
      all.get(name).querySelector("input:not([type=hidden]), button")?.focus();
      all.get(name).scrollIntoView({ block: "nearest" });
    },
    /** Closes what is open; false when nothing was. */
    close() {
      if (!current) return false;
      all.get(current).hidden = true;
      current = "";
      closed();
      return true;
    },
  };
}

/** Lets the panels about the basket work. */
export function reading(till, panels) {
  line(till, panels);
  customer(till, panels);
  hold(till, panels);
  basket(till, panels);
  making(till, panels);
}

/** Sends what a panel says; a refusal goes to its field and the panel stays. */
function sending(till, panels, form, work, box = form.querySelector("[data-error]")) {
  const send = guarded(async (event) => {
    showRefusal(box, null, form);
    try {
      const next = await work(event);
      if (!next) return;
      panels.close();
      till.draw(next, next.line_id);
      if (next.said) say(next.said);
    } catch (refusal) { showRefusal(box, refusal, form); }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(event); });
}

/** What is typed in a panel that differs from what it was opened with. */
function changed(form, opened) {
  return Object.fromEntries(Object.entries(values(form)).filter(([name, value]) => String(value) !== String(opened[name] ?? "")));
}

function line(till, panels) {
  const form = panels.form("line");
  let at = null, opened = {};
  panels.before("line", (l) => {
    at = l;
    document.getElementById("line-name").textContent = [l.name, l.detail].filter(Boolean).join(", ");
    opened = { off: l.off || "", off_reason_id: l.off_reason_id || 0, price: l.list_price ? typed(l.price) : "", price_reason_id: l.price_reason_id || 0, note: l.note || "" };
    for (const [name, value] of Object.entries(opened)) form.elements[name].value = value;
    form.elements.price.placeholder = typed(l.list_price || l.price);
    document.getElementById("put-right").hidden = l.tracking === "not stocked";
  });
  sending(till, panels, form, () => {
    const body = changed(form, opened);
    if (Object.keys(body).length === 0) { panels.close(); return null; }
    if ("off" in body || "off_reason_id" in body) Object.assign(body, { off: form.elements.off.value, off_reason_id: Number(form.elements.off_reason_id.value) });
    if ("price" in body || "price_reason_id" in body) Object.assign(body, { price: form.elements.price.value, price_reason_id: Number(form.elements.price_reason_id.value) });
    return approved((approval) => ask("PATCH", `${till.base}/lines/${at.id}`, approval ? { ...body, approval } : body)).then((next) => ({ ...next, line_id: at.id }));
  });
  document.getElementById("put-right").addEventListener("click", () => panels.show("stock", at));
  panels.before("stock", (l) => {
    const holder = document.getElementById("stock-form");
    holder.replaceChildren();
    part(`/stock/${l.variant_id}/put-right?register=${till.register}`).then((html) => { holder.innerHTML = html; holder.querySelector("select, input")?.focus(); }).catch((refusal) => till.refused(refusal));
  });
  document.getElementById("stock-form").addEventListener("put-right", async (event) => {
    event.preventDefault(); // the basket is drawn anew
    panels.close();
    till.draw(await ask("GET", till.base));
  });
}

function customer(till, panels) {
  const form = panels.form("customer");
  const found = document.getElementById("found-people");
  const fresh = document.getElementById("new-customer");
  const box = form.querySelector("[data-error]");
  let asked = 0, timer = 0;
  panels.before("customer", () => {
    form.reset();
    for (const field of ["name", "mail", "phone"]) form.elements[field].dataset.meant = "";
    found.replaceChildren();
    fresh.hidden = true;
  });
  const put = (id) => ask("PATCH", till.base, { customer_id: id }).then((next) => { panels.close(); till.draw(next); say(next.said); }, (refusal) => { showRefusal(box, refusal, form); if (refusal.field === "basket_id") till.refused(refusal); });
  async function look() {
    const turn = ++asked;
    const words = form.elements.q.value.trim();
    if (!words) { found.replaceChildren(); fresh.hidden = true; return []; }
    const { items } = await ask("GET", "/api/v1/customers?q=" + encodeURIComponent(words));
    if (turn !== asked) return [];
    found.replaceChildren(...items.slice(0, 6).map((c) => {
      const button = make("button", { type: "button", className: "act" }, c.name, " ", make("small", { textContent: [c.mail, c.phone].filter(Boolean).join(" · ") }));
      button.addEventListener("click", () => put(c.id));
      return make("li", {}, button);
    }));
    fresh.hidden = false;
    // What was looked for begins a new customer, until somebody types there.
    const into = words.includes("@") ? "mail" : /^[\d +()-]+$/.test(words) ? "phone" : "name";
    for (const field of ["name", "mail", "phone"]) {
      const input = form.elements[field];
      if (input.value === (input.dataset.meant || "")) input.value = input.dataset.meant = field === into ? words : "";
    }
    return items;
  }
  form.elements.q.addEventListener("input", () => { clearTimeout(timer); timer = setTimeout(() => look().catch((r) => showRefusal(box, r, form)), 120); });
  sending(till, panels, form, async () => {
    clearTimeout(timer);
    const items = await look();
    if (items.length === 1) await put(items[0].id);
    else if (items.length) found.querySelector("button").focus();
    else (form.elements.name.value ? document.getElementById("make-customer") : form.elements.name).focus();
    return null;
  });
  let key = newKey();
  document.getElementById("make-customer").addEventListener("click", guarded(async () => {
    showRefusal(box, null, form);
    try {
      const made = await ask("POST", "/api/v1/customers", { name: form.elements.name.value, mail: form.elements.mail.value, phone: form.elements.phone.value }, key);
      key = newKey();
      await put(made.id);
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, form);
    }
  }));
}

function hold(till, panels) {
  const form = panels.form("hold");
  const some = document.getElementById("hold-lines");
  panels.before("hold", () => {
    form.reset();
    some.hidden = till.basket.lines.length < 2;
    some.replaceChildren(some.querySelector("legend"), ...till.basket.lines.map((l) => make("label", { className: "check" }, make("input", { type: "checkbox", value: l.id }), `${l.name} ${l.detail}`)));
  });
  sending(till, panels, form, () => ask("POST", till.base + "/hold", { name: form.elements.name.value, lines: [...some.querySelectorAll("input:checked")].map((i) => Number(i.value)) }));
}

function basket(till, panels) {
  const panel = panels.form("basket");
  const box = panel.querySelector("[data-error]");
  const of = (name) => panel.querySelector(`[data-part="${name}"]`);
  panels.before("basket", () => {
    of("off").elements.off.value = till.basket.off;
    of("off").elements.off_reason_id.value = till.basket.off_reason_id || 0;
    of("note").elements.note.value = till.basket.note;
    showRefusal(box, null, panel);
  });
  const agree = (body) => approved((approval) => ask("PATCH", till.base, approval ? { ...body, approval } : body));
  sending(till, panels, of("off"), () => agree(values(of("off"))), box);
  sending(till, panels, of("note"), () => agree(values(of("note"))), box);
  sending(till, panels, of("voucher"), async () => {
    const next = await ask("POST", till.base + "/vouchers", values(of("voucher")));
    of("voucher").reset();
    return next;
  }, box);
  if (of("move")) sending(till, panels, of("move"), () => ask("POST", till.base + "/move", values(of("move"))), box);
  const cash = of("cash");
  cash.elements.kind.addEventListener("change", () => { for (const l of cash.querySelectorAll("[data-kind]")) l.hidden = l.dataset.kind !== cash.elements.kind.value; });
  let key = newKey();
  sending(till, panels, cash, async () => {
    const body = { kind: cash.elements.kind.value, amount: cash.elements.amount.value, note: cash.elements.note.value, reason_id: Number(cash.elements[cash.elements.kind.value === "put in" ? "put_in" : "taken_out"].value) };
    try {
      const done = await ask("POST", `/api/v1/registers/${till.register}/cash`, body, key);
      key = newKey();
      cash.reset();
      cash.elements.kind.dispatchEvent(new Event("change"));
      return { ...till.basket, said: `✓ ${money(body.amount)} ${body.kind}, posted as ${done.number}.` };
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      throw refusal.field === "reason_id" ? Object.assign(refusal, { field: body.kind === "put in" ? "put_in" : "taken_out" }) : refusal;
    }
  }, box);
  document.getElementById("price-list")?.addEventListener("change", async (event) => {
    const next = await till.change("PUT", till.base + "/list", { price_list_id: Number(event.target.value) });
    if (!next) event.target.value = till.basket.price_list_id;
    else panels.close();
  });
  document.getElementById("clear").addEventListener("click", guarded(async () => {
    panels.close();
    try {
      till.draw(await ask("DELETE", till.base));
      say("The basket is given up; nothing was posted.");
    } catch (refusal) { till.refused(refusal); }
  }));
  document.getElementById("open-box").addEventListener("click", guarded(async () => {
    try {
      await approved((approval) => ask("POST", `/api/v1/registers/${till.register}/open-drawer`, { approval }));
      panels.close();
      say("✓ The drawer opens.");
    } catch (refusal) { showRefusal(box, refusal, panel); }
  }));
  document.getElementById("lock").addEventListener("click", () => lock());
}

function making(till, panels) {
  const form = panels.form("make");
  panels.before("make", (about) => {
    form.reset();
    if (about?.code) form.elements[isCode(about.code) ? "code" : "name"].value = about.code;
  });
  let key = newKey();
  sending(till, panels, form, async () => {
    try {
      const { basket: next } = await approved((approval) => ask("POST", `/api/v1/registers/${till.register}/products`, approval ? { ...values(form), approval } : values(form), key));
      key = newKey();
      return { ...next, said: `✓ ${form.elements.name.value} is made and on the basket. It stands on Today until it is complete.` };
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      throw refusal;
    }
  });
}
