// Reading a list in: match its columns, try it, see what becomes of each row.
import { ask, guarded, make, showRefusal, upload } from "./api.js";

const root = document.getElementById("import");
const base = "/api/v1/imports/" + root.dataset.id;
const box = document.getElementById("form-error");
const bar = document.getElementById("progress");
const line = document.getElementById("progress-line");
const tabs = document.getElementById("outcomes");
const rows = document.getElementById("result");
const more = document.getElementById("more");
const tryIt = document.getElementById("try");
const run = document.getElementById("run");
let outcome = "refused";
let job = JSON.parse(document.getElementById("import-data").textContent);

const states = { ready: "not tried yet", running: "", tried: "tried; nothing is read in yet", done: "✓ read in", refused: "✗ nothing is read in" };
function show() {
  document.getElementById("state").textContent = states[job.state] + (job.document_number ? ", opening stock as " + job.document_number : "");
  const running = job.state === "running";
  bar.hidden = !running;
  bar.max = Math.max(job.total, 1);
  bar.value = job.done;
  line.textContent = running ? `${job.done.toLocaleString("en")} of ${job.total.toLocaleString("en")} rows. You can leave; it goes on.` : job.says || (job.state === "tried" && job.refused === 0 ? "Every row can be read in." : "");
  tryIt.disabled = running || job.state === "done";
  run.disabled = running || job.state === "done" || (job.state === "tried" && job.refused > 0);
  const counted = ["tried", "done", "refused"].includes(job.state) && job.made + job.changed + job.same + job.refused > 0;
  tabs.hidden = !counted;
  for (const tab of tabs.querySelectorAll("[data-outcome]")) tab.querySelector("b").textContent = job[tab.dataset.outcome];
  document.getElementById("refused-file").hidden = !job.refused;
  document.getElementById("import-labels").hidden = job.state !== "done" || !job.made || root.dataset.kind !== "catalog";
  if (!["ready"].includes(job.state)) document.getElementById("matching").open = false;
  if (counted) {
    if (!job[outcome]) outcome = ["refused", "made", "changed", "same"].find((o) => job[o]) || "refused";
    choose(outcome);
  }
}
async function choose(next) {
  outcome = next;
  for (const tab of tabs.querySelectorAll("[data-outcome]")) tab.setAttribute("aria-selected", String(tab.dataset.outcome === outcome));
  rows.replaceChildren();
  await page(0);
}
let last = 0;
async function page(after) {
  const list = await ask("GET", `${base}/rows?outcome=${outcome}&after=${after}`);
  for (const r of list.items || []) {
    last = r.line;
    const known = make("td", { textContent: [r.product, r.variant].filter(Boolean).join(", ") });
    if (r.outcome === "refused" && r.field === "code" && root.dataset.kind === "opening") known.append(make("a", { href: "/catalog/new", className: "act", textContent: "Make this product" }));
    rows.append(make("tr", {}, make("td", { className: "num quiet", textContent: "line " + r.line }), known, make("td", { className: "mono small", textContent: r.sku }), make("td", { className: r.outcome === "refused" ? "loss" : "small", textContent: (r.outcome === "refused" ? "✗ " + (r.field ? r.field + ": " : "") : "") + (r.detail || "") + (r.want ? " Right would be: " + r.want + "." : "") })));
  }
  more.hidden = !list.more;
}
more.addEventListener("click", () => page(last));
for (const tab of tabs.querySelectorAll("[data-outcome]")) tab.addEventListener("click", () => choose(tab.dataset.outcome));

async function watch() {
  while (job.state === "running") {
    await new Promise((done) => setTimeout(done, 350));
    job = await ask("GET", base);
    show();
  }
}
const begin = guarded(async (dryRun) => {
  showRefusal(box, null);
  try {
    await ask("PUT", base + "/columns", { columns: [...document.querySelectorAll("[data-column]")].map((s) => s.value) });
    job = await ask("POST", base + "/run", { dry_run: dryRun, branch_id: Number(document.getElementById("branch").value) });
    show();
    await watch();
  } catch (refusal) { showRefusal(box, refusal); }
});
tryIt.addEventListener("click", () => begin(true));
run.addEventListener("click", () => begin(false));
document.getElementById("pictures")?.addEventListener("change", guarded(async (event) => {
  try {
    job = await upload(base + "/pictures", event.target.files[0]);
    document.getElementById("picture-count").textContent = `${job.pictures} pictures came with it`;
    showRefusal(box, null);
  } catch (refusal) { showRefusal(box, refusal); }
}));
show();
watch();
