// The register: scans and picks go to the basket, which the server keeps and
// computes; this module only shows what came back.
import { ask, guarded, make, newKey, part, showRefusal } from "./api.js";
import { offer, onScan, say } from "./scanline.js";
import { settleTab } from "./rack.js";
import { showTag } from "./swingtag.js";

const root = document.getElementById("register");
const register = root.dataset.register;
const base = `/api/v1/registers/${register}/basket`;
const box = document.getElementById("form-error");
const money = (text) => root.dataset.symbol + Number(text).toFixed(2).replace(/\B(?=(\d{3})+(?!\d))/g, ",");
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
    const quantity = make("input", { value: Number(l.quantity).toFixed(l.pack ? 0 : l.decimals), inputMode: "decimal", className: "num", "aria-label": `Units of ${l.name} ${l.detail}`, disabled: l.tracking === "serial" });
    quantity.addEventListener("change", () => changeLine(l.id, { quantity: quantity.value }, quantity));
    quantity.addEventListener("keydown", (event) => { if (event.key === "Escape") { event.preventDefault(); quantity.value = Number(l.quantity).toFixed(l.pack ? 0 : l.decimals); quantity.blur(); } });
    const facts = make("small", {});
    const words = [l.pack ? "× " + l.pack : "", l.detail];
    if (l.tracking !== "not stocked" && l.tracking !== "serial") words.push(`${Number(l.here)} here` + (Number(l.elsewhere) > 0 ? `, ${Number(l.elsewhere)} elsewhere` : ""));
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
    const line = make("li", { className: "line" }, quantity, name, make("span", { className: "num each", textContent: Number(l.price).toFixed(2) }), make("b", { className: "num", textContent: Number(l.total).toFixed(2) }), off);
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
      say(refusal.message, null, true);
    }
  }
  onScan((text) => (cashPanel.hidden ? add({ code: text }) : Promise.resolve(say("Finish the payment first, or go back.", null, true))));

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
    const total = Number(basket.totals.gross);
    const notes = [...new Set([total, Math.ceil(total / 5) * 5, Math.ceil(total / 10) * 10, Math.ceil(total / 20) * 20])].slice(0, 4);
    document.getElementById("notes").replaceChildren(...notes.map((n) => {
      const button = make("button", { type: "button", className: "act", textContent: money(n) });
      button.addEventListener("click", () => { handed.value = n.toFixed(2); figureChange(); handed.focus(); });
      return button;
    }));
    handed.value = "";
    figureChange();
    handed.focus();
  }
  function closeCash() { cashPanel.hidden = true; showRefusal(box, null); document.getElementById("cash").focus(); }
  function figureChange() {
    const rest = Number(handed.value) - Number(basket.totals.gross);
    change.textContent = handed.value === "" ? "" : rest < -0.001 ? `${money(-rest)} short` : `change ${money(rest)}`;
  }
  handed.addEventListener("input", figureChange);

  const pay = guarded(async (tender) => {
    showRefusal(box, null);
    for (const b of document.querySelectorAll("#pay button, #cash-panel button")) b.disabled = true;
    try {
      const done = await ask("POST", "/api/v1/sales", { register_id: Number(register), basket_id: basket.id, ...tender }, payKey);
      location.href = `/sales/${done.number}` + (done.printer ? "?printer=" + encodeURIComponent(done.printer) : "");
    } catch (refusal) {
      if (!refusal.lost) payKey = newKey();
      showRefusal(box, refusal);
      for (const b of document.querySelectorAll("#pay button, #cash-panel button")) b.disabled = false;
      if (!cashPanel.hidden) handed.focus();
    }
  });
  const payCard = () => { if (basket.lines.length) pay({ card: basket.totals.gross }); };
  document.getElementById("card").addEventListener("click", payCard);
  document.getElementById("cash").addEventListener("click", openCash);
  document.getElementById("pay").addEventListener("submit", (event) => event.preventDefault());
  document.getElementById("cash-back").addEventListener("click", closeCash);
  cashPanel.addEventListener("submit", (event) => { event.preventDefault(); pay({ cash: handed.value.trim() }); });
  document.getElementById("clear").addEventListener("click", guarded(async () => { draw(await ask("DELETE", base)); say("The basket is given up; nothing was posted."); }));

  draw(basket);
}
