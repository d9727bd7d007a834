// Shows what comes of each check as soon as it is done.
import { make } from "./api.js";
import { plural } from "./money.js";

const progress = document.getElementById("progress");
const rows = [...document.querySelectorAll("#checks tbody tr")];
const differs = document.getElementById("differs");
let done = 0;
let wrong = 0;

function take(line) {
  if (line.done) {
    document.getElementById("agrees").hidden = wrong > 0 || Boolean(line.failed);
    differs.hidden = wrong === 0 && !line.failed;
    differs.textContent = line.failed || `${plural(wrong, "check does", "checks do")} not agree. The first thing that is wrong stands beside it.`;
    return;
  }
  const row = rows[done++];
  row.querySelector("[data-seen]").textContent = line.seen.toLocaleString("en");
  const said = line.wrong ? make("span", { className: "loss", textContent: "✗ " + line.wrong }) : "✓";
  if (line.wrong) wrong++;
  row.querySelector("[data-wrong]").replaceChildren(said);
  progress.textContent = `${done} of ${rows.length} checks`;
  rows[done]?.querySelector("[data-wrong]").replaceChildren(make("span", { className: "quiet", textContent: "is looked at" }));
}

async function run() {
  const answer = await fetch("/stock/in-step/checks");
  if (!answer.ok) throw new Error(answer.statusText);
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (;;) {
    const { value, done: ended } = await reader.read();
    const lines = (rest + (value || "")).split("\n");
    rest = lines.pop();
    for (const line of lines) take(JSON.parse(line));
    if (ended) return;
  }
}
run().catch(() => take({ done: true, failed: "The checks could not be finished. Load the page again." }));
