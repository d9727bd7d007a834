// Changing the rack of a product: prices, SKUs, costs, levels and barcodes of its
// cells, and its values.
import { ask, guarded, newKey, showRefusal } from "./api.js";
import { values } from "./form.js";
import { onScan, say } from "./scanline.js";

const cells = document.getElementById("cells");
const product = cells.dataset.product;
const figure = cells.dataset.figure;
const box = document.getElementById("cells-error");
const done = document.getElementById("cells-done");

const prices = document.getElementById("prices");
if (prices) {
  const changed = new Map();
  const error = prices.querySelector("[data-error]");
  let key = newKey();
  cells.addEventListener("rack-set", (event) => { for (const c of event.detail.cells) changed.set(c.variant, c.value); });
  prices.elements.price_list_id.addEventListener("change", () => { location.href = "?set=price&list=" + prices.elements.price_list_id.value; });
  prices.addEventListener("submit", (event) => { event.preventDefault(); send(); });
  const send = guarded(async () => {
    if (document.activeElement?.matches("input.rack-cell")) document.activeElement.dispatchEvent(new Event("change", { bubbles: true }));
    showRefusal(error, null, prices);
    try {
      const said = await ask("POST", `/api/v1/products/${product}/prices`, { ...values(prices), variants: [...changed].map(([variant_id, price]) => ({ variant_id, price })) }, key);
      const line = prices.querySelector("[data-done]");
      line.hidden = false;
      line.textContent = `✓ ${said.follow.length} follow the product's price.` + (said.own.length ? ` Of their own: ${said.own.join(", ")}.` : "") + (said.under_cost.length ? ` ▾ Under cost: ${said.under_cost.join(", ")}.` : "");
      changed.clear();
    } catch (refusal) { showRefusal(error, refusal, prices); }
    key = newKey();
  });
  document.getElementById("drop-later")?.addEventListener("click", guarded(async () => {
    try { await ask("POST", `/api/v1/products/${product}/prices/drop-later`, { price_list_id: Number(prices.elements.price_list_id.value) }); location.reload(); } catch (refusal) { showRefusal(error, refusal); }
  }));
} else if (figure !== "barcode") {
  cells.addEventListener("rack-set", async (event) => {
    try {
      const said = await ask("POST", `/api/v1/products/${product}/cells`, { figure, cells: event.detail.cells.map((c) => ({ variant_id: c.variant, text: c.value })) });
      showRefusal(box, null);
      done.hidden = false;
      done.textContent = "✓ " + said.says;
    } catch (refusal) { showRefusal(box, refusal); done.hidden = true; }
  });
} else {
  let chosen = null;
  cells.addEventListener("focusin", (event) => { if (event.target.dataset.variant) chosen = event.target; });
  const give = async (variant, code) => {
    try {
      const made = await ask("POST", `/api/v1/variants/${variant}/barcodes`, { code });
      showRefusal(box, null);
      done.hidden = false;
      done.textContent = `✓ ${made.label || "It"} has ${made.barcode}.`;
      return true;
    } catch (refusal) { showRefusal(box, refusal); done.hidden = true; return false; }
  };
  cells.addEventListener("rack-set", async (event) => {
    for (const c of event.detail.cells) if (c.value && await give(c.variant, c.value)) { c.cell.value = ""; c.cell.placeholder = c.value; }
  });
  onScan(async (text) => {
    if (!chosen) { say("Choose the cell that the barcode is of, then scan.", null, true); return; }
    const cell = chosen;
    if (!(await give(cell.dataset.variant, text))) return;
    say(`${cell.getAttribute("aria-label").split(",")[0]} has ${text}.`);
    const all = [...cells.querySelectorAll("input.rack-cell")];
    all[all.indexOf(cell) + 1]?.focus();
  });
  document.addEventListener("click", async (event) => {
    const drop = event.target.closest("[data-drop-code]");
    const own = event.target.closest("[data-own-code]");
    try {
      if (drop) { await ask("DELETE", `/api/v1/variants/${drop.dataset.variant}/barcodes/${encodeURIComponent(drop.dataset.dropCode)}`); location.reload(); }
      if (own && await give(own.dataset.ownCode, "")) location.reload();
    } catch (refusal) { showRefusal(box, refusal); }
  });
}

const more = document.getElementById("values");
if (more) {
  const error = more.querySelector("[data-error]");
  let key = newKey();
  more.addEventListener("submit", (event) => { event.preventDefault(); add(); });
  const add = guarded(async () => {
    try {
      const { each, cost, worth } = values(more);
      await ask("POST", `/api/v1/products/${product}/values`, { axes: [{ name: document.getElementById("axis").value, text: document.getElementById("value").value }], cost, on_hand: { each, worth } }, key);
      location.href = "/catalog/" + product;
    } catch (refusal) { if (!refusal.lost) key = newKey(); showRefusal(error, refusal, more); }
  });
  const valueError = document.getElementById("value-error");
  for (const button of document.querySelectorAll("[data-do]")) {
    button.addEventListener("click", guarded(async () => {
      try {
        await ask("POST", `/api/v1/products/${product}/values/change`, { axis: button.dataset.of, value: button.dataset.value, do: button.dataset.do });
        location.reload();
      } catch (refusal) { showRefusal(valueError, refusal); }
    }));
  }
}
