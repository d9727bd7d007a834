// The list of the catalog: found as one types, walked with the swing tag
// following, ticked and changed at once.
import { ask, guarded, make, newKey, part, showRefusal } from "./api.js";
import { say } from "./scanline.js";
import { showTag } from "./swingtag.js";

const form = document.getElementById("filter");
const rows = document.getElementById("rows");
if (form) start();

function start() {
  const ticked = new Set(); // products
  let everything = ""; // the query of all that is found, once that is ticked
  const bulk = document.getElementById("bulk");
  const result = document.getElementById("bulk-result");
  const query = () => new URLSearchParams([...new FormData(form)].filter(([, value]) => value)).toString();

  // --- finding -----------------------------------------------------------
  let turn = 0;
  let waiting;
  async function find() {
    const mine = ++turn;
    const asked = query();
    try {
      const html = await part("/catalog?fragment=1&" + asked);
      if (mine !== turn) return;
      rows.innerHTML = html;
      history.replaceState(null, "", "/catalog" + (asked ? "?" + asked : ""));
      mark();
    } catch (refusal) { if (mine === turn) say(refusal.message, null, true); }
  }
  form.addEventListener("input", (event) => {
    if (event.target.closest("#columns, #views")) return;
    clearTimeout(waiting);
    waiting = setTimeout(find, event.target.id === "words" ? 90 : 300);
  });
  form.addEventListener("change", (event) => { if (event.target.matches("select")) find(); });
  form.addEventListener("submit", (event) => { event.preventDefault(); clearTimeout(waiting); find(); });

  document.getElementById("set-columns").addEventListener("click", () => {
    form.querySelector("[name=columns]").value = [...document.querySelectorAll("#columns input:checked")].map((c) => c.value).join(",");
    location.href = "/catalog?" + query();
  });
  document.getElementById("save-view").addEventListener("click", guarded(async () => {
    try {
      await ask("POST", "/api/v1/views", { name: document.getElementById("view-name").value, query: query() });
      location.reload();
    } catch (refusal) { say(refusal.message, null, true); }
  }));
  for (const button of document.querySelectorAll("[data-drop-view]")) button.addEventListener("click", guarded(async () => {
    try { await ask("DELETE", "/api/v1/views/" + button.dataset.dropView); location.reload(); } catch (refusal) { say(refusal.message, null, true); }
  }));

  // --- walking -----------------------------------------------------------
  rows.addEventListener("focusin", (event) => {
    const row = event.target.closest("tr[data-variant]");
    if (!row) return;
    for (const r of rows.querySelectorAll("tr.on")) r.classList.remove("on");
    row.classList.add("on");
    showTag(Number(row.dataset.variant));
  });
  rows.addEventListener("click", (event) => {
    const row = event.target.closest("tr[data-variant]");
    if (row && !event.target.closest("a, input")) row.querySelector("td.what a").focus();
  });
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.target.matches("input:not([type=checkbox]), textarea, select")) return;
    const row = document.activeElement.closest?.("tr[data-product]");
    if (event.key === "w") { event.preventDefault(); document.getElementById("words").focus(); }
    if (row && event.key === " " && !event.target.matches("input")) { event.preventDefault(); row.querySelector("td.tick input").click(); }
    if (row && event.key === "e" && bulk) { event.preventDefault(); location.href = `/catalog/${row.dataset.product}/edit`; }
  });
  document.getElementById("words").addEventListener("keydown", (event) => {
    if (event.key === "ArrowDown") { event.preventDefault(); rows.querySelector("td.what a")?.focus(); }
  });

  // --- ticking -----------------------------------------------------------
  function mark() {
    if (!bulk) return;
    for (const box of rows.querySelectorAll("td.tick input")) box.checked = everything !== "" || ticked.has(box.value);
    document.getElementById("ticked").textContent = everything ? "all found" : ticked.size;
    bulk.hidden = ticked.size === 0 && !everything;
    if (bulk.hidden) result.hidden = true;
  }
  rows.addEventListener("change", (event) => {
    const box = event.target;
    if (!box.matches("input[type=checkbox]")) return;
    everything = "";
    const boxes = box.id === "tick-all" ? [...rows.querySelectorAll("td.tick input")] : [box];
    for (const b of boxes) if (box.checked) ticked.add(b.value); else ticked.delete(b.value);
    mark();
  });
  if (!bulk) return;
  document.getElementById("tick-found").addEventListener("click", () => { everything = query() || "by="; mark(); });

  const change = (preview) => ({ products: everything ? [] : [...ticked].map(Number), query: everything, what: document.getElementById("bulk-what").value, to: document.getElementById("bulk-to").value, preview });
  function show(done, title) {
    const all = done.rows.length;
    result.hidden = false;
    result.replaceChildren(make("h2", { textContent: title }),
      make("table", { className: "list" }, make("thead", {}, make("tr", {}, ...["Product", "Before", "After", "Remark"].map((t) => make("th", { textContent: t })))),
        make("tbody", {}, ...done.rows.slice(0, 60).map((r) => make("tr", {}, make("td", { textContent: r.name }), make("td", { textContent: r.before || "–" }), make("td", {}, make("b", { textContent: r.after || "–" })), make("td", { className: "low", textContent: r.remark ? "▾ " + r.remark : "" }))))));
    if (all > 60) result.append(make("p", { className: "quiet small", textContent: `and ${all - 60} more` }));
    for (const why of (done.left || []).slice(0, 20)) result.append(make("p", { className: "remark", textContent: "▾ " + why }));
  }
  const error = bulk.querySelector("[data-error]");
  document.getElementById("bulk-preview").addEventListener("click", guarded(async () => {
    showRefusal(error, null);
    try {
      const done = await ask("POST", "/api/v1/products/bulk", change(true));
      show(done, done.rows.length ? done.says : "Nothing would change");
      if (done.rows.length === 0) return;
      const key = newKey();
      const button = make("button", { type: "button", className: "act first", textContent: "Change them" });
      button.addEventListener("click", guarded(async () => {
        try {
          const made = await ask("POST", "/api/v1/products/bulk", change(false), key);
          show(made, made.says);
          say(made.says + ".", () => undo(made.id));
          await find();
        } catch (refusal) { showRefusal(error, refusal); }
      }));
      result.append(button);
      result.scrollIntoView({ block: "nearest" });
      button.focus();
    } catch (refusal) { showRefusal(error, refusal); }
  }));
  async function undo(id) {
    try {
      const done = await ask("POST", `/api/v1/products/bulk/${id}/undo`);
      show(done, done.says);
      say(done.says);
      await find();
    } catch (refusal) { say(refusal.message, null, true); }
  }
  for (const button of document.querySelectorAll("[data-undo]")) button.addEventListener("click", () => undo(button.dataset.undo));
  document.getElementById("bulk-labels").addEventListener("click", () => { location.href = "/labels?products=" + [...ticked].join(","); });
  bulk.addEventListener("submit", (event) => { event.preventDefault(); document.getElementById("bulk-preview").click(); });
}
