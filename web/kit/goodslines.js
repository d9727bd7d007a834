// Lines of goods that come in, as deliveries and opening stock type them: a table of
// lines, and the rack of a product that fills it.
import { sent } from "./form.js";

const fields = ["quantity", "cost", "lot", "expiry", "serials"];
const more = ["total", "worth", "came_on"]; // of deliveries, and of opening stock

/** Reads the lines that a table holds, as they are typed. */
export function linesOf(holder) {
  return [...holder.querySelectorAll("[data-line]")].map((row) => {
    const line = { variant_id: Number(row.dataset.variant) };
    for (const name of fields) line[name] = sent(row.querySelector(`[data-f="${name}"]`));
    for (const name of more) {
      const field = row.querySelector(`[data-f="${name}"]`);
      if (field) line[name] = sent(field);
    }
    const shelf = row.querySelector('[data-f="shelf_id"]');
    if (shelf) line.shelf_id = Number(shelf.value);
    return line;
  });
}

/** Sets the quantity of a variant in a list of lines; a lot keeps its own line. */
function put(list, variant, quantity, cost) {
  const line = list.find((l) => l.variant_id === variant);
  if (line) {
    line.quantity = quantity;
    if (cost) { line.cost = cost; delete line.total; }
  } else if (quantity) list.push({ variant_id: variant, quantity, cost, lot: "", expiry: "", serials: "" });
}

/** Lets a rack and its cost fill lines: change gets what is to be done to a list of them. */
export function fillFrom(rackHolder, change) {
  rackHolder.addEventListener("rack-set", (event) => {
    const cost = document.getElementById("rack-cost")?.value.trim() || "";
    change((list) => { for (const c of event.detail.cells) put(list, c.variant, c.value, cost); });
  });
  rackHolder.addEventListener("change", (event) => {
    if (event.target.id !== "rack-cost") return;
    const variants = new Set([...rackHolder.querySelectorAll(".rack-cell")].map((c) => Number(c.dataset.variant)));
    change((list) => { for (const l of list) if (variants.has(l.variant_id)) l.cost = event.target.value.trim(); });
  });
}
