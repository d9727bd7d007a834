// What every page does: keys, explanations, forms that speak to the API, lists
// that are walked with the keyboard.
import { ask, guarded, make, newKey, showRefusal } from "./api.js";
import { focusScan } from "./scanline.js";
import "./rack.js";

const typing = (target) => target.matches("input, textarea, select, [contenteditable]");

// On a phone the rail scrolls: the place one is in stays in sight.
document.querySelector(".place.here")?.scrollIntoView({ inline: "center", block: "nearest" });

// --- theme -------------------------------------------------------------
document.getElementById("theme")?.addEventListener("click", () => {
  const root = document.documentElement;
  root.dataset.theme = root.dataset.bsTheme = root.dataset.theme === "dark" ? "light" : "dark";
  localStorage.setItem("theme", root.dataset.theme);
});

// --- keys ----------------------------------------------------------------
const keys = document.getElementById("keys");
function showKeys() {
  const rows = [["/", "scan line"], ["g and a letter", "go to a place: " + [...document.querySelectorAll("[data-go]")].map((a) => `${a.dataset.go} ${a.textContent.trim()}`).join(", ")],
    ["j k or arrows", "walk a list or rack"], ["Enter", "open"], ["Ctrl Enter", "post what is typed"], ["Esc", "one step back; nothing is lost"], ["? on a figure", "what it is made of"]];
  for (const e of document.querySelectorAll("[data-key]")) rows.push([e.dataset.key, e.firstChild.textContent.trim()]);
  document.getElementById("keys-list").replaceChildren(make("dl", {}, ...rows.flatMap(([key, what]) => [make("dt", {}, make("kbd", { textContent: key })), make("dd", { textContent: what })])));
  keys.showModal();
}
document.getElementById("show-keys")?.addEventListener("click", showKeys);

let going = 0;
let acting = 0; // a key acts when no other follows at a scanner's speed
document.addEventListener("keydown", (event) => {
  clearTimeout(acting);
  if (event.defaultPrevented) return;
  if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) {
    const button = event.target.closest("form")?.querySelector("button.first") || document.querySelector(".act.first:not(a)");
    if (button) { event.preventDefault(); button.click(); }
    return;
  }
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "Escape") { closeExplained(); document.querySelector("details.who[open]")?.removeAttribute("open"); return; }
  if (typing(event.target) || keys?.open) return;
  if (Date.now() - going < 1200) {
    going = 0;
    const place = document.querySelector(`[data-go="${CSS.escape(event.key)}"]`);
    if (place) { event.preventDefault(); location.href = place.href; }
    return;
  }
  if (event.key === "/") { event.preventDefault(); focusScan(); return; }
  if (event.key === "g") { going = Date.now(); return; }
  if (event.key === "?") {
    event.preventDefault();
    const figure = document.activeElement.closest?.("[data-explain]");
    if (figure) explain(figure); else showKeys();
    return;
  }
  const act = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
  if (act && !event.repeat) { event.preventDefault(); acting = setTimeout(() => act.click(), 70); return; }
  walk(event);
});

function walk(event) {
  const step = { j: 1, ArrowDown: 1, k: -1, ArrowUp: -1 }[event.key];
  const links = [...document.querySelectorAll("table.walk tbody tr td:first-child a")];
  if (!step || links.length === 0 || event.target.closest(".rack")) return;
  event.preventDefault();
  const at = links.indexOf(document.activeElement);
  links[Math.max(0, Math.min(at + step, links.length - 1))].focus();
}

// --- explain ------------------------------------------------------------
let explained = null;
function closeExplained() {
  if (!explained) return;
  explained.panel.remove();
  explained.figure.setAttribute("aria-expanded", "false");
  explained.figure.focus();
  explained = null;
}
async function explain(figure) {
  if (explained) { const same = explained.figure === figure; closeExplained(); if (same) return; }
  const e = await ask("GET", figure.dataset.explain);
  const row = (p) => make("tr", {}, make("td", {}, p.label, ...(p.number ? [" ", make("a", { href: "/documents/" + encodeURIComponent(p.number), textContent: p.number })] : [])), make("td", { className: "num", textContent: p.amount }));
  const panel = make("div", { className: "explained", role: "dialog", tabIndex: -1, "aria-label": "What " + e.figure + " is made of" },
    make("h2", {}, e.figure + " ", make("b", { className: "mono", textContent: e.amount })), make("p", { textContent: e.rule }),
    make("table", {}, make("tbody", {}, ...(e.parts || []).map(row))), make("h3", { textContent: "The last documents" }), make("table", {}, make("tbody", {}, ...(e.latest || []).map(row))));
  const box = figure.getBoundingClientRect();
  panel.style.top = box.bottom + scrollY + 6 + "px";
  panel.style.left = Math.max(8, Math.min(box.left + scrollX, innerWidth - 350)) + "px";
  document.body.append(panel);
  figure.setAttribute("aria-expanded", "true");
  explained = { panel, figure };
  panel.focus();
}
document.addEventListener("click", (event) => {
  const figure = event.target.closest("[data-explain]");
  if (figure) { event.preventDefault(); explain(figure); } else if (explained && !explained.panel.contains(event.target)) closeExplained();
});

// --- forms that speak to the API -----------------------------------------
/** Reads a form's named fields as the API wants them. */
export function values(form) {
  const body = {};
  for (const field of form.elements) {
    if (!field.name || field.disabled) continue;
    if (field.type === "checkbox") body[field.name] = field.checked;
    else if (field.type !== "radio" || field.checked) body[field.name] = "number" in field.dataset ? Number(field.value) : field.value;
  }
  return body;
}
for (const form of document.querySelectorAll("form[data-api]")) {
  let key = newKey();
  const send = guarded(async () => {
    const [method, path] = form.dataset.api.split(" ");
    const box = form.querySelector("[data-error]");
    showRefusal(box, null, form);
    try {
      const answer = await ask(method, path, values(form), key);
      location.href = form.dataset.then.replace(/\{(\w+)\}/g, (_, name) => answer[name]);
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, form);
    }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}
