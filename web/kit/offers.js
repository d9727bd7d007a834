// What suppliers' catalogs offer under a GTIN that nobody here knows.
import { ask, guarded, make } from "./api.js";
import { money } from "./money.js";

/** The goods that are offered under a scanned code, each proposed whole with a button that makes it: then
 * made is called, or wrong with the refusal. Nothing where nobody offers it, or nobody can be asked. */
export async function offered(text, made, wrong) {
  if (!/\d{8}/.test(text)) return [];
  const { items } = await ask("GET", "/api/v1/offers?code=" + encodeURIComponent(text)).catch(() => ({ items: [] }));
  return items.slice(0, 3).map((o) => {
    const what = [o.item.name, o.item.brand, o.item.pack].filter(Boolean).join(", ");
    const line = make("span", { className: "offered" }, `${o.item.supplier} offers it: ${what}${o.price ? ", to sell at " + money(o.price) : ""}${o.margin ? `, margin ${o.margin}` : ""}. `);
    if (!o.can_make) return line;
    const button = make("button", { type: "button", className: "act", textContent: "Make it" });
    button.addEventListener("click", guarded(async () => {
      try {
        await ask("POST", "/api/v1/offers", { item_id: o.item.id });
        await made();
      } catch (refusal) { wrong(refusal); }
    }));
    line.append(button);
    return line;
  });
}
