// A price ending is said in three parts: which way, to every what, ending in what.
// The field itself keeps the text that the API takes: "1/0.95/nearest".
import { make } from "./api.js";

const ways = [["", "as above"], ["none", "none"], ["nearest", "nearest"], ["up", "up to"], ["down", "down to"]];

// what is proposed where a price has parts of a whole, and where it has none
const usual = document.documentElement.dataset.places === "0" ? { step: "100", end: "80" } : { step: "1", end: "0.95" };

/** Shows in its parts what an ending's field says. */
export function showEnding(input) {
  const [step, end, way] = input.value.includes("/") ? input.value.split("/") : ["", "", input.value.trim()];
  input.parts.step.value = step;
  input.parts.end.value = end;
  input.parts.way.value = step ? way || "nearest" : way;
  input.parts.figures.hidden = !step;
}

function build(input) {
  const name = input.getAttribute("aria-label") || document.querySelector(`label[for="${CSS.escape(input.id)}"]`)?.textContent || "Price ending";
  const figure = (what, hint) => make("input", { className: "form-control num", inputMode: "decimal", placeholder: hint, "aria-label": `${name}: ${what}`, disabled: input.disabled });
  const way = make("select", { className: "form-select", "aria-label": name, disabled: input.disabled }, ...ways.map(([value, text]) => make("option", { value, textContent: value === "" ? input.dataset.endingField || text : text })));
  const step = figure("a price at every", "1");
  const end = figure("which ends in", usual.end);
  const figures = make("span", { className: "ending-figures" }, make("span", {}, end), make("span", { className: "quiet small", textContent: "at every" }), make("span", {}, step));
  input.parts = { way, step, end, figures };
  if (input.id) { way.id = input.id; step.id = input.id + "-step"; end.id = input.id + "-end"; input.removeAttribute("id"); }
  input.type = "hidden";
  input.after(make("span", { className: "ending" }, way, figures));
  const write = () => {
    const figured = !["", "none"].includes(way.value);
    if (figured && figures.hidden) { step.value ||= usual.step; end.value ||= usual.end; }
    figures.hidden = !figured;
    input.value = figured ? `${step.value.trim() || "1"}/${end.value.trim() || "0"}/${way.value}` : way.value;
  };
  for (const control of [way, step, end]) control.addEventListener("change", write);
  input.form?.addEventListener("reset", () => setTimeout(() => showEnding(input)));
  showEnding(input);
}
for (const input of document.querySelectorAll("input[data-ending-field]")) build(input);
