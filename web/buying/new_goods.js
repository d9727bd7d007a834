// The panel in a delivery that makes a product of goods that nobody here knows. What they come to
// is worked out by the server while they are typed.
import { ask, guarded, make, newKey, showRefusal, upload } from "./api.js";
import { values } from "./form.js";
import { figure, typed, units } from "./money.js";
import { focusScan, isCode, say } from "./scanline.js";

const form = document.getElementById("new-goods");
const box = form?.querySelector("[data-error]");
const line = document.getElementById("new-price-line");
let key = newKey();
let code = "";
let head = () => ({});

function kept() {
  for (const part of form.querySelectorAll("[data-kept]")) part.hidden = part.dataset.kept !== form.elements.tracking.value;
}

function close() {
  form.hidden = true;
  form.reset();
  showRefusal(box, null, form);
  focusScan();
}

let turn = 0;
let waiting;
async function price() {
  const mine = ++turn;
  try {
    const p = await ask("POST", "/api/v1/deliveries/goods/price", { ...values(form), head: head() });
    if (mine !== turn) return;
    const s = p.suggestion;
    form.elements.price.placeholder = s.by_rule ? typed(s.price) : "";
    const words = [`${units(p.units)} in all`];
    if (p.each) words.push(`one at ${figure(p.each)}`);
    if (s.has_price) words.push(figure(s.price) + (s.by_rule ? ` by ${s.rule}, from ${s.rule_from}` : " of its own"));
    if (s.margin) words.push(`margin ${s.margin}`);
    if (s.under_cost) words.push("▾ under cost");
    line.textContent = words.join(" · ");
    line.classList.toggle("low", s.under_cost);
    showRefusal(box, null, form);
  } catch (refusal) { if (mine === turn) line.textContent = refusal.message; }
}

/** The button that opens the panel for a code; null for who may not make goods. */
export function newGoods(scanned, whole) {
  if (!form) return null;
  const button = make("button", { type: "button", className: "act", textContent: "Make it here" });
  button.addEventListener("click", () => {
    code = isCode(scanned) ? scanned : "";
    key = newKey();
    document.getElementById("new-code").textContent = code || "goods without a barcode yet";
    if (!code) form.elements.name.value = scanned; // words are a name
    document.getElementById("new-whole").href = whole;
    form.hidden = false;
    kept();
    form.elements.name.focus();
  });
  return button;
}

/** Lets a page have goods made: of is its delivery's head, and done gets what was made. */
export function makesGoods(of, into, done) {
  if (!form) return;
  head = of;
  form.addEventListener("input", () => { clearTimeout(waiting); waiting = setTimeout(price, 120); });
  form.elements.tracking.addEventListener("change", kept);
  form.addEventListener("keydown", (event) => { if (event.key === "Escape") { event.stopPropagation(); close(); } });
  document.getElementById("new-leave").addEventListener("click", close);
  const send = guarded(async () => {
    try {
      const file = document.getElementById("new_picture").files[0];
      const picture = file ? (await upload(`/api/v1/pictures?name=${encodeURIComponent(file.name)}`, file)).id : 0;
      const made = await ask("POST", into(), { ...values(form), code, head: head(), picture_ids: picture ? [picture] : [] }, key);
      close();
      await done(made);
      say(made.said);
    } catch (refusal) {
      if (!refusal.lost) key = newKey();
      showRefusal(box, refusal, form);
    }
  });
  form.addEventListener("submit", (event) => { event.preventDefault(); send(); });
}
