// Tables are walked with the arrows, or j and k.

/** Moves along the links of a list; other keys are left alone. */
export function walk(event) {
  const step = { j: 1, ArrowDown: 1, k: -1, ArrowUp: -1 }[event.key];
  const links = [...document.querySelectorAll("table.walk tbody tr")].map((row) => row.querySelector("a")).filter(Boolean);
  if (!step || links.length === 0 || event.target.closest(".rack")) return;
  event.preventDefault();
  const at = links.indexOf(document.activeElement);
  links[Math.max(0, Math.min(at + step, links.length - 1))].focus();
}
