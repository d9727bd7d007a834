// Designing a label: fields are placed with mouse and keys; the server draws the
// label and says what is wrong with it.
import { ask, guarded, make, newKey, part, showRefusal } from "./api.js";
import { onScan, say } from "./scanline.js";

const t = JSON.parse(document.getElementById("template-data").textContent);
const stage = document.getElementById("stage");
const boxes = document.getElementById("boxes");
const drawn = document.getElementById("drawn");
const remarks = document.getElementById("remarks");
const size = document.getElementById("size");
const list = document.getElementById("fields");
const form = document.getElementById("field");
const box = document.getElementById("form-error");
const { revision } = document.getElementById("template-data").dataset;
const NS = "http://www.w3.org/2000/svg";
let chosen = -1;
let variant = 0;
const round = (n, step = 0.1) => Math.round(Math.round(n / step) * step * 100) / 100;
const number = (text) => { // what is no number is sent as it is, and refused
  const n = Number(String(text).replace(",", "."));
  return Number.isNaN(n) ? text : n;
};

function template() {
  const s = Object.fromEntries(new FormData(size));
  const sheet = s.paper === "Roll" ? { paper: "Roll" } : { paper: s.paper, columns: number(s.columns), rows: number(s.rows), left: number(s.left), top: number(s.top), gap_x: number(s.gap_x), gap_y: number(s.gap_y) };
  return { code: t.code, name: s.name || size.elements.name.placeholder, width: number(s.width), height: number(s.height), sheet, fields: t.fields };
}

let turn = 0;
let waiting;
function soon() { clearTimeout(waiting); waiting = setTimeout(draw, 90); }
async function draw() {
  const mine = ++turn;
  try {
    const html = await part("/labels/draw" + (variant ? "?variant=" + variant : ""), template());
    if (mine !== turn) return;
    const holder = document.createElement("div");
    holder.innerHTML = html;
    drawn.replaceChildren(holder.querySelector("svg"));
    remarks.replaceChildren(holder.querySelector(".design-remarks"));
    showRefusal(box, null);
  } catch (refusal) { if (mine === turn) showRefusal(box, refusal); }
}

/** Draws the boxes of the fields over the label. */
function frame() {
  const { width, height } = template();
  const scale = Math.min(820 / width, 380 / height, 16);
  stage.style.setProperty("--w", width * scale + "px");
  stage.style.setProperty("--h", height * scale + "px");
  boxes.setAttribute("viewBox", `0 0 ${width} ${height}`);
  document.querySelector(".sheet-only").hidden = size.elements.paper.value === "Roll";
  boxes.replaceChildren(...t.fields.flatMap((f, i) => {
    const rect = document.createElementNS(NS, "rect");
    for (const [name, value] of Object.entries({ x: f.x, y: f.y, width: f.w, height: f.h, tabindex: 0, role: "button", "data-field": i, "aria-label": `${f.kind}, ${f.x} by ${f.y} mm, ${f.w} by ${f.h}` })) rect.setAttribute(name, value);
    if (i === chosen) rect.setAttribute("class", "on");
    if (i !== chosen) return [rect];
    const grip = document.createElementNS(NS, "rect");
    for (const [name, value] of Object.entries({ x: f.x + f.w - 1, y: f.y + f.h - 1, width: 1.4, height: 1.4, class: "grip", "data-grip": i, "aria-hidden": "true" })) grip.setAttribute(name, value);
    return [rect, grip];
  }));
  list.replaceChildren(...t.fields.map((f, i) => {
    const button = make("button", { type: "button", className: i === chosen ? "link on" : "link", textContent: f.kind + (f.words ? ` “${f.words.trim()}”` : "") });
    button.addEventListener("click", () => choose(i, true));
    return make("li", {}, button);
  }));
}
function choose(i, focus) {
  chosen = i;
  frame();
  form.hidden = i < 0;
  if (i < 0) return;
  const f = t.fields[i];
  document.getElementById("field-title").textContent = f.kind;
  for (const name of ["x", "y", "w", "h", "em", "words", "align", "symbol"]) form.elements[name].value = f[name] ?? "";
  for (const name of ["bold", "bare"]) form.elements[name].checked = Boolean(f[name]);
  for (const e of form.querySelectorAll(".letters-only")) e.hidden = ["barcode", "picture"].includes(f.kind);
  for (const e of form.querySelectorAll(".barcode-only")) e.hidden = f.kind !== "barcode";
  if (focus) boxes.querySelector(`[data-field="${i}"]`)?.focus();
}
function change(i, part) {
  Object.assign(t.fields[i], part);
  const f = t.fields[i];
  const { width, height } = template();
  f.w = round(Math.min(Math.max(f.w, 1), width)); f.h = round(Math.min(Math.max(f.h, 1), height));
  f.x = round(Math.min(Math.max(f.x, 0), width - f.w)); f.y = round(Math.min(Math.max(f.y, 0), height - f.h));
  const had = document.activeElement?.dataset?.field;
  choose(i, had !== undefined);
  soon();
}

form.addEventListener("input", (event) => {
  if (chosen < 0) return;
  const f = event.target;
  const value = f.type === "checkbox" ? f.checked : ["x", "y", "w", "h", "em"].includes(f.name) ? number(f.value) : f.value;
  t.fields[chosen][f.name] = value;
  frame();
  soon();
});
form.addEventListener("submit", (event) => event.preventDefault());
size.addEventListener("input", () => { frame(); soon(); });
size.addEventListener("submit", (event) => event.preventDefault());

// --- keys ------------------------------------------------------------------
boxes.addEventListener("focusin", (event) => { const i = Number(event.target.dataset.field); if (i !== chosen) choose(i, true); });
boxes.addEventListener("keydown", (event) => {
  const i = Number(event.target.dataset.field);
  const f = t.fields[i];
  const step = event.altKey ? 0.1 : 0.5;
  const [dx, dy] = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key] || [];
  if (dx !== undefined) {
    event.preventDefault();
    change(i, event.shiftKey ? { w: f.w + dx, h: f.h + dy } : { x: f.x + dx, y: f.y + dy });
  }
  if (event.key === "Delete" || event.key === "Backspace") { event.preventDefault(); drop(i); }
});
function drop(i) {
  if (t.fields.length === 1) { say("A label has at least one field.", null, true); return; }
  const gone = t.fields.splice(i, 1)[0];
  say(`${gone.kind} is taken off.`, () => { t.fields.splice(i, 0, gone); choose(i); soon(); });
  choose(-1);
  soon();
}
document.getElementById("take-off").addEventListener("click", () => drop(chosen));

// --- mouse -------------------------------------------------------------------
boxes.addEventListener("pointerdown", (event) => {
  const grip = event.target.dataset.grip;
  const i = Number(grip ?? event.target.dataset.field);
  if (Number.isNaN(i)) { choose(-1); return; }
  event.preventDefault();
  choose(i, true);
  const per = template().width / boxes.getBoundingClientRect().width;
  const from = { x: event.clientX, y: event.clientY, ...JSON.parse(JSON.stringify({ f: t.fields[i] })) };
  const move = (e) => {
    const dx = (e.clientX - from.x) * per, dy = (e.clientY - from.y) * per;
    const snap = (n) => round(n, e.altKey ? 0.1 : 0.5);
    change(i, grip !== undefined ? { w: snap(from.f.w + dx), h: snap(from.f.h + dy) } : { x: snap(from.f.x + dx), y: snap(from.f.y + dy) });
  };
  const end = () => { removeEventListener("pointermove", move); removeEventListener("pointerup", end); };
  addEventListener("pointermove", move);
  addEventListener("pointerup", end);
});

document.getElementById("add").addEventListener("click", () => {
  const kind = document.getElementById("add-kind").value;
  const { width, height } = template();
  const f = { kind, x: 1, y: 1, w: round(Math.min(width - 2, kind === "picture" ? 15 : 30)), h: round(Math.min(height - 2, kind === "barcode" || kind === "picture" ? 12 : 4)) };
  if (kind !== "barcode" && kind !== "picture") f.em = 2.8;
  if (kind === "text") f.words = "Words";
  t.fields.push(f);
  choose(t.fields.length - 1, true);
  soon();
});
onScan(async (text) => {
  const found = await ask("GET", "/api/v1/find?q=" + encodeURIComponent(text));
  if (found.length !== 1 || found[0].kind !== "variant") { say(`${text} is not one thing.`, null, true); return; }
  variant = found[0].id;
  document.getElementById("shown-with").textContent = found[0].name + (found[0].detail ? ", " + found[0].detail : "");
  draw();
});

let key = newKey();
const keep = guarded(async (code) => {
  try {
    const done = await ask("PUT", "/api/v1/label-templates/" + code, { ...template(), revision: code === "new" ? "" : revision }, key);
    location.href = "/labels?template=" + done.code;
  } catch (refusal) { if (!refusal.lost) key = newKey(); showRefusal(box, refusal, size); }
});
const ours = t.code.startsWith("own-");
document.getElementById("save").addEventListener("click", () => keep(ours ? t.code : "new"));
document.getElementById("copy").addEventListener("click", () => keep("new"));
frame();
draw();
