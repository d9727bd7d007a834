// What every page does: its keys, and the parts that it is made of.
import { make, whatCameOf } from "./api.js";
import { closeExplained, explain } from "./figure.js";
import { focusScan, say, scansAll } from "./scanline.js";
import { walk } from "./table.js";
import "./ending.js";
import "./form.js";
import "./put_right.js";
import "./rack.js";

const typing = (target) => target.matches("input, textarea, select, [contenteditable]");

// On a phone the rail scrolls: the place one is in stays in sight.
document.querySelector(".place.here")?.scrollIntoView({ inline: "center", block: "nearest" });

// What the pages of a place are made of is loaded when somebody is about to go there.
for (const kind of ["pointerover", "focusin"]) {
  document.querySelector(".rail nav")?.addEventListener(kind, ({ target }) => {
    const place = target.closest("[data-ahead]");
    if (!place) return;
    document.head.append(make("link", { rel: "modulepreload", href: place.dataset.ahead }));
    delete place.dataset.ahead;
  });
}

// What was sent from here and never answered, as the page was left or the line was down, is asked for.
if (document.getElementById("scan")) whatCameOf().then(({ numbers, lost }) => {
  if (numbers.length) say(`✓ What was sent before was posted: ${numbers.join(", ")}.`, null, false, make("a", { href: "/documents/" + numbers.at(-1), textContent: "Look at it" }));
  else if (lost) say("What was sent before has not arrived. Nothing is lost or done twice: send it again.", null, true);
}).catch(() => { /* the server is away: it is asked by the next page */ });

// --- theme -------------------------------------------------------------
document.getElementById("theme")?.addEventListener("click", () => {
  const root = document.documentElement;
  root.dataset.theme = root.dataset.bsTheme = root.dataset.theme === "dark" ? "light" : "dark";
  localStorage.setItem("theme", root.dataset.theme);
});

// --- keys ----------------------------------------------------------------
const keys = document.getElementById("keys");
function showKeys() {
  const rows = [["/", "scan line"], [scansAll() ? "Alt and a letter" : "g and a letter", "go to a place: " + [...document.querySelectorAll("[data-go]")].map((a) => `${a.dataset.go} ${a.textContent.trim()}`).join(", ")],
    ["j k or arrows", "walk a list or rack"], ["Enter", "open"], ["Ctrl Enter", "post what is typed"], ["Esc", "one step back; nothing is lost"], ["? on a figure", "what it is made of"]];
  for (const e of document.querySelectorAll("[data-key]")) rows.push([(scansAll() ? "Alt " : "") + e.dataset.key, e.firstChild.textContent.trim()]);
  document.getElementById("keys-list").replaceChildren(make("dl", {}, ...rows.flatMap(([key, what]) => [make("dt", {}, make("kbd", { textContent: key })), make("dd", { textContent: what })])));
  keys.showModal();
}
document.getElementById("show-keys")?.addEventListener("click", showKeys);

/** The main act that is seen: of the form where the caret is, else of what lies on top, else of the page; nothing in
 * something closed. */
function mainAct(at) {
  const seen = (button) => !button.disabled && button.checkVisibility({ visibilityProperty: true });
  const first = (within, what) => [...(within?.querySelectorAll(what) || [])].find(seen);
  const top = [...document.querySelectorAll("dialog[open]")].at(-1);
  return first(at.closest("form:not(.scan)"), "button.first") || first(top || document, ".act.first:not(a)");
}

let going = 0;
let acting = 0; // a key acts when no other follows at a scanner's speed
document.addEventListener("keydown", (event) => {
  clearTimeout(acting);
  if (event.defaultPrevented) return;
  if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) {
    const button = mainAct(event.target);
    if (button) { event.preventDefault(); button.click(); }
    return;
  }
  if (event.altKey && scansAll() && !event.ctrlKey && !event.metaKey) {
    const letter = CSS.escape(event.key.toLowerCase());
    const at = document.querySelector(`[data-key="${letter}"]`) || document.querySelector(`[data-go="${letter}"]`);
    if (at) { event.preventDefault(); at.click(); }
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
