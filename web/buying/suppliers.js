// A list of suppliers that is read in: tried first, row by row, then all or nothing.
import { guarded, make, showRefusal, upload } from "./api.js";

const file = document.getElementById("suppliers-file");
const tried = document.getElementById("suppliers-tried");
const box = document.getElementById("form-error");

async function read(dry) {
  showRefusal(box, null);
  try { return await upload("/api/v1/suppliers/read" + (dry ? "?dry_run=true" : ""), file.files[0]); } catch (refusal) { showRefusal(box, refusal); return null; }
}

file?.addEventListener("change", guarded(async () => {
  if (!file.files.length) return;
  const said = await read(true);
  if (!said) { file.value = ""; return; }
  const counts = {};
  for (const row of said.rows) counts[row.outcome] = (counts[row.outcome] || 0) + 1;
  const table = make("table", { className: "list" }, make("tbody", {}, ...said.rows.slice(0, 200).map((row) =>
    make("tr", {}, make("td", { className: "num", textContent: row.line }), make("td", { textContent: row.name }), make("td", { textContent: row.outcome }), make("td", { className: "small", textContent: row.says })))));
  const go = make("button", { type: "button", className: "act first", textContent: "Read it in", disabled: said.refused > 0 });
  go.addEventListener("click", guarded(async () => { if ((await read(false))?.done) location.href = "/buying/suppliers"; }));
  tried.hidden = false;
  tried.replaceChildren(make("p", {}, Object.entries(counts).map(([outcome, n]) => `${n} ${outcome}`).join(", "), said.refused ? ". A refused row keeps all from being read in. " : ". ", go), table);
}));
