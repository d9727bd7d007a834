import { ask, guarded, newKey, showRefusal } from "./api.js";

function deed(form, work) {
  let key = newKey();
  const box = form.querySelector("[data-error]");
  const send = guarded(async () => {
    showRefusal(box, null, form);
    try { await work(key); } catch (refusal) { showRefusal(box, refusal, form); }
    key = newKey();
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}

const prices = document.getElementById("prices");
const changed = new Map();
prices.addEventListener("rack-set", (event) => { for (const c of event.detail.cells) changed.set(c.variant, c.value); });
deed(prices, async (key) => {
  const body = { price: prices.elements.price.value, variants: [...changed].map(([variant_id, price]) => ({ variant_id, price })) };
  const done = await ask("POST", `/api/v1/products/${prices.dataset.product}/prices`, body, key);
  const line = prices.querySelector("[data-done]");
  line.hidden = false;
  line.textContent = `✓ ${done.follow.length} follow the product's price.` + (done.own.length ? ` Of their own: ${done.own.join(", ")}.` : "");
  changed.clear();
});

const more = document.getElementById("values");
deed(more, async (key) => {
  const axis = document.getElementById("axis");
  if (!axis) return;
  const colour = /^colou?r$/i.test(axis.value);
  const body = { axes: [{ name: axis.value, values: [{ name: document.getElementById("value").value, swatch: colour ? document.getElementById("swatch").value : "" }] }] };
  await ask("POST", `/api/v1/products/${more.dataset.product}/values`, body, key);
  location.href = "/catalog/" + more.dataset.product;
});
