// Figures explain themselves: a click, or ? on the one in focus.
import { ask, make } from "./api.js";

let explained = null;
/** Closes the explanation that is open. */
export function closeExplained() {
  if (!explained) return;
  explained.panel.remove();
  explained.figure.setAttribute("aria-expanded", "false");
  explained.figure.focus();
  explained = null;
}
/** Opens what a figure is made of, down to documents; again closes it. */
export async function explain(figure) {
  if (explained) { const same = explained.figure === figure; closeExplained(); if (same) return; }
  const e = await ask("GET", figure.dataset.explain);
  const row = (p) => make("tr", {}, make("td", {}, p.label, ...(p.number ? [" ", make("a", { href: "/documents/" + encodeURIComponent(p.number), textContent: p.number })] : [])), make("td", { className: "num", textContent: p.amount }));
  const panel = make("div", { className: "explained", role: "dialog", tabIndex: -1, "aria-label": "What " + e.figure + " is made of" },
    make("h2", {}, e.figure + " ", make("b", { className: "mono", textContent: e.amount })), make("p", { textContent: e.rule }),
    make("table", {}, make("tbody", {}, ...(e.parts || []).map(row))), ...(e.latest?.length ? [make("h3", { textContent: "The last documents" }), make("table", {}, make("tbody", {}, ...e.latest.map(row)))] : []));
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
