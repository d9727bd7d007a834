// The swing tag shows the facts of what is selected.
import { part } from "./api.js";

const body = document.getElementById("tag-body");
let wanted = 0;

/** Shows a variant on the swing tag; the last one asked for wins. */
export async function showTag(variant) {
  if (!body || !variant) return;
  wanted = variant;
  const html = await part(`/catalog/variants/${variant}/tag`);
  if (wanted === variant) body.innerHTML = html;
}
