// A supplier's catalog: read in once it was tried, and products made of its lines.
import { ask, guarded, make, showRefusal, upload } from "./api.js";
import { figure } from "./money.js";

const file = document.getElementById("catalog-file");
const tried = document.getElementById("catalog-tried");
const box = document.getElementById("form-error");
const cell = (text, className = "") => make("td", { textContent: text, className });

async function read(query) {
  showRefusal(box, null);
  try { return await upload(`/api/v1/suppliers/${file.dataset.supplier}/catalog/read?${query}`, file.files[0]); } catch (refusal) { showRefusal(box, refusal); return null; }
}

/** The costs of our goods that change, the dearest turn first. */
function changes(said) {
  const rows = said.changes.slice(0, 200).map((c) => make("tr", {}, cell(c.name), cell(c.sku, "mono small"), cell(c.was ? figure(c.was) : "–", "num"), cell(figure(c.now), "num"),
    cell(c.percent ? (Number(c.percent) > 0 ? "▾ +" : "") + c.percent.replace("-", "−") + " %" : "new", Number(c.percent) > 0 ? "num low" : "num"), cell(c.from ? "from " + c.from.slice(0, 10) : "", "small")));
  return [make("h2", { textContent: `What changes in our costs: ${said.changes.length} of ${said.ours} that are here` }), make("table", { className: "list" },
    make("thead", {}, make("tr", {}, ...["Goods", "SKU", "One so far", "One now", "Change", ""].map((t, i) => make(t ? "th" : "td", { textContent: t, className: i > 1 && i < 5 ? "num" : "" })))), make("tbody", {}, ...rows))];
}

file?.addEventListener("change", guarded(async () => {
  if (!file.files.length) return;
  const said = await read("dry_run=true");
  if (!said) { file.value = ""; return; }
  const go = make("button", { type: "button", className: "act first", textContent: "Keep it", disabled: said.refused > 0 });
  const whole = make("input", { type: "checkbox" });
  go.addEventListener("click", guarded(async () => { if ((await read("whole=" + whole.checked))?.done) location.reload(); }));
  const counts = [[said.made, "new"], [said.changed, "changed"], [said.same, "the same"], [said.refused, "refused"]].filter(([n]) => n).map(([n, t]) => `${n} ${t}`).join(", ");
  const parts = [make("p", {}, counts + ". ", said.refused ? "A refused row keeps all from being kept. " : "", go)];
  if (said.left > 0) parts[0].append(" ", make("label", { className: "check" }, whole, ` drop the ${said.left} that the file does not name`));
  if (said.changes.length) parts.push(...changes(said));
  if (said.rows.length) {
    const outcomes = { made: "new" };
    parts.push(make("h2", { textContent: "Row by row" }), make("table", { className: "list" }, make("tbody", {}, ...said.rows.map((r) =>
      make("tr", {}, cell(r.line, "num"), cell(r.part_number, "mono small"), cell(r.name), cell(outcomes[r.outcome] || r.outcome), cell(r.says, "small"))))));
  }
  tried.hidden = false;
  document.querySelector(".empty")?.remove();
  tried.replaceChildren(...parts);
}));

for (const button of document.querySelectorAll("[data-make]")) {
  button.addEventListener("click", guarded(async () => {
    try {
      const made = await ask("POST", "/api/v1/offers", { item_id: Number(button.dataset.make) });
      button.replaceWith(make("a", { href: "/catalog/" + made.id, className: "mono", textContent: made.variants[0].sku }));
      showRefusal(box, null);
    } catch (refusal) { showRefusal(box, refusal); }
  }));
}
