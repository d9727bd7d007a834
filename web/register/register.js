// The register: scans and picks go to the basket, which the server keeps and
// computes; this module only shows what came back.
import { ask, guarded, make, newKey, part, showRefusal } from "./api.js";
import { figure, money, typed, units } from "./money.js";
import { missed, offer, onScan, say } from "./scanline.js";
import { settleTab } from "./rack.js";
import { showTag } from "./swingtag.js";

const root = document.getElementById("register");
const register = root.dataset.register;
const base = `/api/v1/registers/${register}/basket`;
const box = document.getElementById("form-error");
let basket = JSON.parse(document.getElementById("basket-data").textContent);
let payKey = newKey();

if (root.dataset.open) start();

function start() {
  const list = document.getElementById("basket");
  const picked = document.getElementById("picked");
  const tiles = document.getElementById("tiles");
  const cashPanel = document.getElementById("cash-panel");
  const handed = document.getElementById("handed");
  const change = document.getElementById("change");

  function draw(next, touched) {
    basket = next;
    list.replaceChildren(...basket.lines.map(row));
    document.getElementById("strip-empty").hidden = basket.lines.length > 0;
    document.getElementById("total").textContent = money(basket.totals.gross);
    document.getElementById("facts").textContent = basket.lines.length ? `${basket.lines.length} ${basket.lines.length === 1 ? "line" : "lines"} · ${basket.totals.units} units` : "nothing yet";
    document.getElementById("taxes").textContent = basket.lines.length ? "tax in it " + money(basket.totals.tax) : "";
    for (const id of ["card", "cash"]) document.getElementById(id).disabled = basket.lines.length === 0;
    document.getElementById("clear").disabled = basket.lines.length === 0;
    const line = list.querySelector(`[data-line="${touched || ""}"]`);
    if (line) {
      line.classList.add("on");
      line.scrollIntoView({ block: "nearest" });
      showTag(Number(line.dataset.variant));
    }
    figureChange();
  }

  function row(l) {
    const quantity = make("input", { value: units(l.quantity), inputMode: "decimal", className: "num", "aria-label": `Units of ${l.name} ${l.detail}`, disabled: l.tracking === "serial" });
    quantity.addEventListener("change", () => changeLine(l.id, { quantity: quantity.value }, quantity));
    quantity.addEventListener("keydown", (event) => { if (event.key === "Escape") { event.preventDefault(); quantity.value = units(l.quantity); quantity.blur(); } });
    const facts = make("small", {});
    const words = [l.pack ? "× " + l.pack : "", l.detail];
    if (l.tracking !== "not stocked" && l.tracking !== "serial") words.push(`${units(l.here)} here` + (Number(l.elsewhere) > 0 ? `, ${units(l.elsewhere)} elsewhere` : ""));
    words.push(...(l.lots || []));
    facts.append(words.filter(Boolean).join(" · "));
    const name = make("div", {}, l.name, facts);
    if (l.tracking === "serial") {
      const select = make("select", { "aria-label": `Serial number of ${l.name}` }, make("option", { value: "", textContent: "choose its number" }),
        ...[...new Set([...(l.choices || []), ...(l.serials || [])])].map((n) => make("option", { value: n, textContent: n, selected: (l.serials || []).includes(n) })));
      select.addEventListener("change", () => changeLine(l.id, { serial: select.value }));
      facts.append(" ", select);
    }
    if (l.short) name.append(make("small", { className: "short-note", textContent: "✗ " + l.short }));
    const off = make("button", { type: "button", className: "off", textContent: "×", title: "Take it off", "aria-label": `Take ${l.name} ${l.detail} off` });
    off.addEventListener("click", () => changeLine(l.id, { quantity: "0" }));
    const line = make("li", { className: "line" }, quantity, name, make("span", { className: "num each", textContent: figure(l.price) }), make("b", { className: "num", textContent: figure(l.total) }), off);
    line.dataset.line = l.id;
    line.dataset.variant = l.variant_id;
    line.addEventListener("focusin", () => { for (const other of list.children) other.classList.toggle("on", other === line); showTag(l.variant_id); });
    return line;
  }

  async function changeLine(id, body, input) {
    try {
      const next = await ask("PATCH", `${base}/lines/${id}`, body);
      showRefusal(box, null);
      draw(next, id);
      say(next.said);
    } catch (refusal) {
      showRefusal(box, refusal);
      if (input) { input.setAttribute("aria-invalid", "true"); input.focus(); input.select(); }
    }
  }

  async function add(body) {
    try {
      const next = await ask("POST", `${base}/lines`, body);
      showRefusal(box, null);
      draw(next, next.line_id);
      if (next.receipt) { location.href = `/register/${register}/take-back?sale=${encodeURIComponent(next.receipt)}`; return; }
      if (next.pick) { await rack(next.pick.id); return; }
      if (next.offers) { offer(next.offers, (f) => rack(f.id)); return; }
      const before = next.before;
      say(next.said, () => changeLine(next.line_id, { quantity: before }));
    } catch (refusal) {
      showRefusal(box, refusal);
      await missed(body.code || "", refusal);
    }
  }
  onScan((text) => (cashPanel.hidden ? add({ code: text }) : Promise.resolve(say("Finish the payment first, or go back.", null, true))), true);

  document.getElementById("price-list")?.addEventListener("change", async (event) => {
    try { const next = await ask("PUT", base + "/list", { price_list_id: Number(event.target.value) }); draw(next); say(next.said); } catch (refusal) { showRefusal(box, refusal); event.target.value = basket.price_list_id; }
  });

  // --- picking ---------------------------------------------------------
  function back() { picked.replaceChildren(); tiles.hidden = false; tiles.querySelector("button")?.focus(); }
  async function rack(product) {
    picked.innerHTML = await part(`/register/${register}/rack/${product}`);
    tiles.hidden = true;
    const cells = [...picked.querySelectorAll(".rack-cell")];
    if (cells.length === 1) { await add({ variant_id: Number(cells[0].dataset.variant) }); back(); return; }
    for (const r of picked.querySelectorAll(".rack")) settleTab(r);
    cells[0]?.focus();
  }
  tiles.addEventListener("click", async (event) => {
    const tile = event.target.closest("[data-category]");
    if (!tile) return;
    picked.innerHTML = `<div class="deliver-head"><h2></h2><button type="button" class="act ms-auto" data-back>Back <kbd>Esc</kbd></button></div>` + (await part(`/register/${register}/products?category=${tile.dataset.category}`));
    picked.querySelector("h2").textContent = tile.querySelector("span").textContent;
    tiles.hidden = true;
    picked.querySelector(".tile")?.focus();
  });
  picked.addEventListener("click", (event) => {
    if (event.target.closest("[data-back]")) back();
    const tile = event.target.closest("[data-product]");
    if (tile) rack(tile.dataset.product);
  });
  picked.addEventListener("rack-take", (event) => add({ variant_id: event.detail.variant }).then(back));
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && !event.defaultPrevented) {
      if (!cashPanel.hidden) closeCash();
      else if (picked.childElementCount) back();
    }
    if (event.key === "F8") { event.preventDefault(); openCash(); }
    if (event.key === "F9") { event.preventDefault(); payCard(); }
  });

  // --- paying -----------------------------------------------------------
  function openCash() {
    if (basket.lines.length === 0) return;
    cashPanel.hidden = false;
    document.getElementById("notes").replaceChildren(...basket.notes.map((n, i) => {
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
    handed.placeholder = typed(basket.totals.gross);
    figureChange();
    handed.focus();
  }
  function closeCash() { cashPanel.hidden = true; showRefusal(box, null); document.getElementById("cash").focus(); }
  let asked = 0;
  async function figureChange() {
    const turn = ++asked;
    if (cashPanel.hidden || handed.value.trim() === "") { change.textContent = ""; return; }
    try {
      const left = await ask("GET", `${base}/change?cash=${encodeURIComponent(handed.value)}`);
      if (turn === asked) change.textContent = left.short ? `${money(left.short)} short` : `change ${money(left.change)}`;
    } catch { if (turn === asked) change.textContent = ""; }
  }
  handed.addEventListener("input", figureChange);

  const pay = guarded(async (tender) => {
    showRefusal(box, null);
    for (const b of document.querySelectorAll("#pay button, #cash-panel button")) b.disabled = true;
    try {
      const done = await ask("POST", "/api/v1/sales", { register_id: Number(register), basket_id: basket.id, total: basket.totals.gross, ...tender }, payKey);
      location.href = `/sales/${done.number}` + (done.printer ? "?printer=" + encodeURIComponent(done.printer) : "");
    } catch (refusal) {
      if (!refusal.lost) payKey = newKey();
      if (refusal.field === "total" || refusal.field === "basket_id") draw(await ask("GET", base));
      showRefusal(box, refusal);
      for (const b of document.querySelectorAll("#pay button, #cash-panel button")) b.disabled = false;
      if (!cashPanel.hidden) handed.focus();
    }
  });
  const payCard = () => { if (basket.lines.length) pay({ card: basket.totals.gross }); };
  const payCash = () => pay({ cash: handed.value.trim() || handed.placeholder });
  document.getElementById("card").addEventListener("click", payCard);
  document.getElementById("cash").addEventListener("click", openCash);
  document.getElementById("pay").addEventListener("submit", (event) => event.preventDefault());
  document.getElementById("cash-back").addEventListener("click", closeCash);
  cashPanel.addEventListener("submit", (event) => { event.preventDefault(); payCash(); });
  document.getElementById("clear").addEventListener("click", guarded(async () => { draw(await ask("DELETE", base)); say("The basket is given up; nothing was posted."); }));

  draw(basket, basket.lines.at(-1)?.id);
}
