// The scan line: the one input on every page that takes a scan or a search.
import { ask, make } from "./api.js";
import { answerAtOnce } from "./at_once.js";
import { offered } from "./offers.js";
import { play } from "./sound.js";

const input = document.getElementById("scan");
const list = document.getElementById("scan-found");
const saidLine = document.getElementById("said");
let handler = null;

/** Says in one line what a scan did, with a way to undo it. */
export function say(text, undo, refused, more) {
  if (scansAll()) tone(!refused);
  if (!saidLine) return;
  saidLine.className = refused ? "said no" : "said";
  saidLine.replaceChildren(text);
  if (undo) {
    const button = make("button", { type: "button", className: "link", textContent: "Undo" });
    button.addEventListener("click", () => { saidLine.replaceChildren(); undo(); });
    saidLine.append(" ", button);
  }
  if (more) saidLine.append(" ", more);
}

// What was taken sounds high and short, what was refused low and twice.
const tone = (taken) => play(taken ? [[0, 1320, 0.06]] : [[0, 220, 0.12], [0.18, 220, 0.12]]);

/** Lets a page take scans: it gets the text and returns when it is done. Where things are
 * scanned one after another, all that is typed outside a field goes to the scan line, from
 * the first character on and at any speed; the page's own keys then take Alt. */
export function onScan(take, typed) {
  handler = take;
  if (!typed) return;
  document.documentElement.dataset.scans = "all";
  answerAtOnce();
}

/** Whether all that is typed outside a field goes to the scan line. */
export const scansAll = () => document.documentElement.dataset.scans === "all";

/** Offers things that were found below the scan line. */
export function offer(found, choose) {
  list.replaceChildren(...found.map((f) => {
    const button = make("button", { type: "button" }, f.name, " ", make("small", { textContent: [f.detail, f.code].filter(Boolean).join(" · ") }));
    button.addEventListener("click", () => { hide(); choose(f); });
    return make("li", {}, button);
  }));
  list.hidden = found.length === 0;
  list.querySelector("button")?.focus();
}

function hide() { if (list) list.hidden = true; }

/** Opens what was found: the page of a variant, product or document. */
export function open(found) {
  if (found.kind === "variant") location.href = `/catalog/${found.product_id}?variant=${found.id}`;
  else if (found.kind === "customer") location.href = "/customers/" + found.id;
  else if (found.kind === "voucher") location.href = "/vouchers/" + found.code;
  else if (found.kind === "order") location.href = "/buying/orders/" + found.id;
  else if (found.kind === "sending") location.href = "/stock/sendings/" + found.id;
  else if (found.kind === "count") location.href = "/counts/" + found.id;
  else if (found.kind === "shelf") location.href = "/stock/move?to=" + found.id;
  else if (found.kind === "document") location.href = `/documents/${encodeURIComponent(found.code)}`;
  else location.href = `/catalog/${found.id}`;
}

async function look(text) {
  const found = await ask("GET", "/api/v1/find?q=" + encodeURIComponent(text));
  if (found.length === 0) throw Object.assign(new Error(`Nothing here is called ${text}.`), { status: 404 });
  else if (found.length === 1) open(found[0]);
  else offer(found, open);
}

/** Says why a scan was not taken, with what can be done about it: a code that nobody here knows may be
 * in a supplier's catalog. */
export async function missed(text, refusal) {
  const found = refusal.status === 404 ? await offered(text, () => take(text), (wrong) => say(wrong.message, null, true)) : [];
  const more = make("span", {}, ...found);
  if (refusal.more) more.append(" ", refusal.more);
  say(refusal.message, null, true, more.childNodes.length ? more : null);
}

// Scans come faster than they are answered: each waits for the one before.
let queue = Promise.resolve();
function take(text) {
  queue = queue.then(() => (handler || look)(text)).catch((refusal) => missed(text, refusal)).catch(() => { /* the next one is taken */ });
  return queue;
}

/** Whether a text that nobody knows is a code, or words: a name. */
export const isCode = (text) => /\d/.test(text) && !/\s\D|\D\s/.test(text.trim());

/** Takes a text as if it had been scanned. */
export const scan = take;

if (input) {
  const entered = (event) => {
    event.preventDefault();
    const text = input.value.trim();
    if (!text) { document.dispatchEvent(new CustomEvent("scan-empty")); return; }
    input.value = "";
    hide();
    take(text);
  };
  input.form.addEventListener("submit", entered);
  // Codes that are pasted line by line are scanned one after the other.
  input.addEventListener("paste", (event) => {
    const codes = (event.clipboardData?.getData("text") || "").split(/[\r\n]+/).map((line) => line.trim()).filter(Boolean);
    if (codes.length < 2) return;
    event.preventDefault();
    input.value = "";
    hide();
    for (const code of codes) take(code);
  });
  input.addEventListener("keydown", (event) => {
    if (event.key === "Enter" && !event.isComposing && !event.ctrlKey && !event.metaKey) entered(event); // sooner than the form is sent
    if (event.key === "Escape") { input.value = ""; hide(); input.blur(); }
    if (event.key === "ArrowDown" && !list.hidden) { event.preventDefault(); list.querySelector("button")?.focus(); }
  });
  list.addEventListener("keydown", (event) => {
    const buttons = [...list.querySelectorAll("button")];
    const at = buttons.indexOf(document.activeElement);
    if (event.key === "ArrowDown") { event.preventDefault(); buttons[Math.min(at + 1, buttons.length - 1)].focus(); }
    if (event.key === "ArrowUp") { event.preventDefault(); (buttons[at - 1] || input).focus(); }
    if (event.key === "Escape") { hide(); input.focus(); }
  });
  document.addEventListener("click", (event) => { if (!input.form.contains(event.target)) hide(); });

  // A wedge scanner types like a very fast person and ends with Enter. A burst
  // that begins outside of any field is gathered here; one that falls into a
  // field is taken out of it again.
  const fast = 50; // milliseconds between keys; nobody types so fast for long
  const shortest = 6;
  let burst = "", last = 0, field = null, before = "";
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.isComposing) return;
    const now = event.timeStamp;
    const target = event.target;
    const inField = target.matches("input:not([type=checkbox]):not([type=radio]):not([type=color]), textarea");
    if (target === input) return;
    if (scansAll() && event.isTrusted && event.key.length === 1 && !/[ ?/]/.test(event.key) && !target.matches("input, textarea, select") && !document.querySelector("dialog[open]")) {
      burst = "";
      input.focus(); // what is typed lands there
      return;
    }
    if (event.key === "Enter") {
      if (burst.length >= shortest && now - last < fast * 2) {
        event.preventDefault();
        event.stopImmediatePropagation();
        const text = burst;
        burst = "";
        if (field) { field.value = before; field.dispatchEvent(new Event("input", { bubbles: true })); }
        take(text);
      }
      burst = "";
      return;
    }
    if (event.key.length !== 1) return;
    if (now - last > fast || !burst) {
      burst = "";
      field = inField ? target : null;
      before = inField ? target.value : "";
    }
    burst += event.key;
    last = now;
  }, true);
}

/** Puts the caret into the scan line. */
export function focusScan() { input?.focus(); input?.select(); }
