// The swing tag shows the facts of what is selected.
import { ask, newKey, part, showRefusal } from "./api.js";
import { say } from "./scanline.js";

const body = document.getElementById("tag-body");
let wanted = 0;

/** Shows a variant on the swing tag; the last one asked for wins. */
export async function showTag(variant) {
  if (!body || !variant) return;
  wanted = variant;
  const html = await part(`/catalog/variants/${variant}/tag`);
  if (wanted === variant) body.innerHTML = html;
}

// A bundle's tag makes kits up and breaks them up.
let key = newKey();
body?.addEventListener("submit", async (event) => {
  const form = event.target.closest("[data-kit]");
  if (!form) return;
  event.preventDefault();
  const box = body.querySelector("[data-error]");
  const variant = Number(form.dataset.kit);
  try {
    const done = await ask("POST", "/api/v1/kits/" + event.submitter.value, { variant_id: variant, branch_id: Number(form.dataset.branch), quantity: form.elements.quantity.value }, key);
    key = newKey();
    await showTag(variant);
    say(`✓ ${event.submitter.textContent}: posted as ${done.number}.`);
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal, form);
  }
});
