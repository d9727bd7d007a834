// The facts of a product: texts, suppliers, attributes, pictures, packs, parts.
import { ask, guarded, make, newKey, showRefusal, upload } from "./api.js";
import { values } from "./form.js";
import { onScan, say } from "./scanline.js";

const facts = document.getElementById("facts");
const product = facts.dataset.product;
const factsError = facts.querySelector("[data-error]");
const pairs = (id, a, b) => [...document.querySelectorAll(`#${id} .pair`)].map((p) => [p.querySelector(`[data-${a}]`).value.trim(), p.querySelector(`[data-${b}]`).value.trim()]).filter(([first]) => first);

// The last pair of a list is always empty, for one more.
for (const id of ["suppliers-of", "attributes"]) {
  const list = document.getElementById(id);
  list.addEventListener("input", () => {
    const last = list.lastElementChild;
    if (![...last.querySelectorAll("input")].some((i) => i.value)) return;
    const next = last.cloneNode(true);
    for (const i of next.querySelectorAll("input")) i.value = "";
    list.append(next);
  });
}

let key = newKey();
const save = guarded(async () => {
  showRefusal(factsError, null, facts);
  const body = { ...values(facts), suppliers: pairs("suppliers-of", "supplier", "part").map(([supplier, part]) => ({ supplier, part })), attributes: Object.fromEntries(pairs("attributes", "attribute", "value")) };
  for (const name of ["tracking", "unit"]) body[name] = facts.elements[name].value; // also when it stays
  try {
    const done = await ask("PUT", "/api/v1/products/" + product, body, key);
    say("✓ " + done.says);
    location.href = "/catalog/" + product;
  } catch (refusal) {
    if (!refusal.lost) key = newKey();
    showRefusal(factsError, refusal, facts);
  }
});
facts.addEventListener("submit", (event) => { event.preventDefault(); save(); });

// --- pictures -------------------------------------------------------------
const pictures = document.getElementById("pictures");
const pictureError = document.getElementById("picture-error");
const add = guarded(async (files) => {
  for (const file of files) {
    try { await upload(`/api/v1/products/${product}/pictures?name=${encodeURIComponent(file.name)}`, file); } catch (refusal) { showRefusal(pictureError, refusal); return; }
  }
  location.reload();
});
document.getElementById("picture").addEventListener("change", (event) => add([...event.target.files]));
pictures.addEventListener("dragover", (event) => { event.preventDefault(); pictures.classList.add("over"); });
pictures.addEventListener("dragleave", () => pictures.classList.remove("over"));
pictures.addEventListener("drop", (event) => { event.preventDefault(); pictures.classList.remove("over"); add([...event.dataTransfer.files]); });
pictures.addEventListener("click", guarded(async (event) => {
  const button = event.target.closest("[data-lead], [data-drop]");
  if (!button) return;
  try {
    await ask("PATCH", `/api/v1/products/${product}/pictures/${button.dataset.lead || button.dataset.drop}`, { do: button.dataset.lead ? "lead" : "drop" });
    location.reload();
  } catch (refusal) { showRefusal(pictureError, refusal); }
}));

// --- packs ----------------------------------------------------------------
const pack = document.getElementById("pack");
if (pack) {
  const error = document.getElementById("pack-error");
  const send = guarded(async () => {
    try { await ask("POST", `/api/v1/products/${product}/packs`, values(pack)); location.reload(); } catch (refusal) { showRefusal(error, refusal, pack); }
  });
  pack.addEventListener("submit", (event) => { event.preventDefault(); send(); });
  for (const button of document.querySelectorAll("[data-drop-pack]")) button.addEventListener("click", guarded(async () => {
    try { await ask("DELETE", `/api/v1/products/${product}/packs/${button.dataset.dropPack}`); location.reload(); } catch (refusal) { showRefusal(error, refusal, pack); }
  }));
}

// --- the parts of a bundle ----------------------------------------------------
const parts = document.getElementById("parts");
if (parts) {
  const rows = document.getElementById("part-rows");
  const error = parts.querySelector("[data-error]");
  onScan(async (text) => {
    const found = await ask("GET", "/api/v1/find?q=" + encodeURIComponent(text));
    if (found.length !== 1 || found[0].kind !== "variant") { say("Scan one thing, or type its SKU.", null, true); return; }
    const f = found[0];
    const row = make("tr", {}, make("td", { textContent: f.name + (f.detail ? ", " + f.detail : "") }), make("td", { className: "num" }, make("input", { className: "form-control num short", value: "1", "aria-label": "How many " + f.name })), make("td", {}));
    row.dataset.partOf = f.id;
    rows.append(row);
    say(f.name + " is put in; save to keep it.");
  });
  const send = guarded(async () => {
    const list = [...rows.querySelectorAll("tr")].map((r) => ({ variant_id: Number(r.dataset.partOf), quantity: r.querySelector("input").value })).filter((p) => Number(p.quantity) !== 0);
    try { await ask("PUT", `/api/v1/products/${product}/parts`, { parts: list, revision: parts.dataset.revision }); location.reload(); } catch (refusal) { showRefusal(error, refusal); }
  });
  parts.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}

// --- taking over, dropping -------------------------------------------------
const succeed = document.getElementById("succeed");
if (succeed) {
  const send = guarded(async () => {
    try { const made = await ask("POST", `/api/v1/products/${product}/successor`, values(succeed)); location.href = "/catalog/" + made.id; } catch (refusal) { showRefusal(document.getElementById("succeed-error"), refusal); }
  });
  succeed.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}
document.getElementById("drop-product")?.addEventListener("click", guarded(async () => {
  try { await ask("DELETE", "/api/v1/products/" + product); location.href = "/catalog"; } catch (refusal) { showRefusal(document.getElementById("drop-error"), refusal); }
}));
