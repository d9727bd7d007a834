// Goods that are moved between shelves: shelf, things, shelf.
import { ask, guarded, make, newKey, part, showRefusal } from "./api.js";
import { values } from "./form.js";
import { offer, onScan, say } from "./scanline.js";
import { settleTab } from "./rack.js";

const form = document.getElementById("move-form");
const table = document.getElementById("move-lines");
const rackHolder = document.getElementById("move-rack");
const box = document.getElementById("form-error");
const done = document.getElementById("done");
let lines = [];
let key = newKey();

function draw() {
  table.hidden = lines.length === 0;
  document.getElementById("move-empty").hidden = lines.length > 0;
  table.tBodies[0].replaceChildren(...lines.map((l, i) => {
    const field = (name, label) => {
      const input = make("input", { className: "form-control" + (name === "quantity" ? " num" : " mono"), name: `lines.${i}.${name}`, value: l[name] || "", autocomplete: "off" });
      input.setAttribute("aria-label", `${label} of ${l.name}`);
      input.addEventListener("change", () => { l[name] = input.value; });
      return input;
    };
    const drop = make("button", { type: "button", className: "link", textContent: "take off" });
    drop.setAttribute("aria-label", `take off ${l.name}`);
    drop.addEventListener("click", () => { lines.splice(i, 1); draw(); });
    return make("tr", {}, make("td", { textContent: l.name }), make("td", { className: "num" }, field("quantity", "Units")),
      make("td", {}, l.serials ? field("serials", "Serial numbers") : l.lot ? field("lot", "Lot") : ""), make("td", {}, drop));
  }));
}

const send = guarded(async () => {
  const { from_shelf_id, to_shelf_id, condition } = values(form);
  showRefusal(box, null, document);
  try {
    const posted = await ask("POST", "/api/v1/moves", { from_shelf_id, to_shelf_id, note: "", lines: lines.map((l) => ({ ...l, condition })) }, key);
    key = newKey();
    const to = form.elements.to_shelf_id.selectedOptions[0].textContent;
    done.replaceChildren(`✓ ${lines.length === 1 ? lines[0].name : lines.length + " kinds of goods"} moved to ${to}, as `, make("a", { href: "/documents/" + posted.number, textContent: posted.number }), ".");
    done.hidden = false;
    lines = [];
    rackHolder.replaceChildren();
    form.elements.from_shelf_id.value = form.elements.to_shelf_id.value = "0";
    draw();
    say(done.textContent);
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(box, refusal, document);
    say(refusal.message, null, true);
  }
});

async function openRack(product) {
  rackHolder.innerHTML = await part(`/stock/move/rack/${product}?from=${form.elements.from_shelf_id.value}`);
  for (const r of rackHolder.querySelectorAll(".rack")) settleTab(r);
  rackHolder.querySelector(".rack-cell")?.focus();
}
rackHolder.addEventListener("rack-set", (event) => {
  const name = rackHolder.querySelector("h2").textContent;
  for (const c of event.detail.cells) {
    const at = lines.findIndex((l) => l.variant_id === c.variant && !l.lot && !l.serials);
    if (!c.value) { if (at >= 0) lines.splice(at, 1); } else if (at >= 0) lines[at].quantity = c.value;
    else lines.push({ variant_id: c.variant, name: `${name}, ${c.cell.getAttribute("aria-label").split(",")[0]}`, quantity: c.value, serials: "", lot: "", expiry: "" });
  }
  draw();
});

if (form) {
  document.getElementById("move").addEventListener("click", send);
  document.addEventListener("keydown", (event) => { if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) { event.preventDefault(); send(); } });
  form.addEventListener("submit", (event) => event.preventDefault());
  onScan(async (text) => {
    const scanned = await ask("POST", "/api/v1/moves/scan", { code: text, lines });
    if (scanned.shelf_id) {
      const field = lines.length ? form.elements.to_shelf_id : form.elements.from_shelf_id;
      if (![...field.options].some((o) => Number(o.value) === scanned.shelf_id)) { say(`${scanned.said} It is not a shelf of this branch.`, null, true); return; }
      field.value = scanned.shelf_id;
      if (lines.length) await send();
      else say(`From ${scanned.said}`);
      return;
    }
    if (scanned.pick) { await openRack(scanned.pick.id); return; }
    if (scanned.offers?.length) { offer(scanned.offers.filter((f) => f.kind === "product"), (f) => openRack(f.id)); return; }
    const before = lines;
    lines = scanned.lines;
    done.hidden = true;
    draw();
    say(scanned.said, () => { lines = before; draw(); });
  }, true);
  draw();
}
