// The rack: one component in all of its uses, with one set of keys. Arrow keys
// move, typing sets, Shift with arrows selects, a click on a rail's head or a
// size fills the row or column. It tells its page what happened with events:
// rack-set (cells with their new values), rack-choose (a cell is selected) and
// rack-take (Enter on a cell).

const cellsOf = (rack) => [...rack.querySelectorAll(".rack-cell")];
const at = (rack, row, col) => rack.querySelector(`.rack-cell[data-row="${row}"][data-col="${col}"]`);
const place = (cell) => [Number(cell.dataset.row), Number(cell.dataset.col)];
const tell = (rack, name, detail) => rack.dispatchEvent(new CustomEvent(name, { bubbles: true, detail }));
const hanger = (cell) => cell.closest(".hanger");

/** Makes one cell of a rack the one that Tab comes to. */
export function settleTab(rack) {
  const cells = cellsOf(rack);
  const current = cells.find((c) => c.tabIndex === 0 && c === document.activeElement) || cells[0];
  for (const c of cells) c.tabIndex = c === current ? 0 : -1;
}

function chosen(rack) { return cellsOf(rack).filter((c) => hanger(c).classList.contains("on")); }
function clear(rack) { for (const c of cellsOf(rack)) hanger(c).classList.remove("on"); }

function move(rack, cell, dr, dc) {
  const rows = rack.querySelectorAll(".rail-row").length;
  const cols = Math.max(...cellsOf(rack).map((c) => place(c)[1])) + 1;
  let [r, c] = place(cell);
  for (let n = 0; n < rows + cols; n++) { // over cells that are not made
    r += dr; c += dc;
    if (r < 0 || c < 0 || r >= rows || c >= cols) return null;
    const next = at(rack, r, c);
    if (next) return next;
  }
  return null;
}

function focus(rack, cell, extend) {
  if (!extend) clear(rack);
  for (const c of cellsOf(rack)) c.tabIndex = -1;
  cell.tabIndex = 0;
  cell.focus();
  cell.select?.();
  if (extend) hanger(cell).classList.add("on");
}

/** Adds up what is typed, or counted so far, beside and below the rack. */
export function addUp(rack) {
  const sum = (cells) => cells.reduce((n, c) => n + Math.round(1000 * (Number(c.value || ("add" in rack.dataset ? c.placeholder : 0)) || 0)), 0) / 1000;
  const cells = cellsOf(rack);
  for (const box of rack.querySelectorAll("[data-total-row]")) box.textContent = sum(cells.filter((c) => c.dataset.row === box.dataset.totalRow));
  for (const box of rack.querySelectorAll("[data-total-col]")) box.textContent = sum(cells.filter((c) => c.dataset.col === box.dataset.totalCol));
  const all = rack.querySelector("[data-total]");
  if (all) all.textContent = sum(cells);
}

/** Sets typed cells: those selected get the same value. */
function set(rack, cell) {
  const group = chosen(rack);
  const cells = group.includes(cell) && group.length > 1 ? group : [cell];
  for (const c of cells) c.value = cell.value;
  const detail = cells.map((c) => ({ cell: c, variant: Number(c.dataset.variant), choice: c.dataset.choice ? JSON.parse(c.dataset.choice) : null, value: c.value.trim() }));
  clear(rack);
  for (const c of cells) c.dataset.was = c.value;
  addUp(rack);
  tell(rack, "rack-set", { cells: detail });
}

function press(rack, cells) {
  const on = cells.some((c) => c.getAttribute("aria-pressed") === "false");
  for (const c of cells) c.setAttribute("aria-pressed", String(on));
  tell(rack, "rack-set", { cells: cells.map((c) => ({ cell: c, choice: JSON.parse(c.dataset.choice), made: on })) });
}

document.addEventListener("focusin", (event) => {
  const cell = event.target.closest?.(".rack-cell");
  if (!cell) return;
  const rack = cell.closest(".rack");
  for (const c of cellsOf(rack)) c.tabIndex = c === cell ? 0 : -1;
  if (cell.matches("input")) cell.dataset.was = cell.value;
  if (rack.dataset.mode === "look") { clear(rack); hanger(cell).classList.add("on"); tell(rack, "rack-choose", { variant: Number(cell.dataset.variant) }); }
});

document.addEventListener("change", (event) => {
  const cell = event.target.closest?.("input.rack-cell");
  if (!cell || cell.value === cell.dataset.was) return;
  set(cell.closest(".rack"), cell);
});

document.addEventListener("keydown", (event) => {
  const cell = event.target.closest?.(".rack-cell");
  if (!cell || event.ctrlKey || event.metaKey || event.altKey) return;
  const rack = cell.closest(".rack");
  const mode = rack.dataset.mode;
  const direction = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
  if (direction) {
    const atEdge = cell.matches("input") && !event.shiftKey && cell.value !== "" && cell.selectionStart !== cell.selectionEnd === false &&
      ((event.key === "ArrowLeft" && cell.selectionStart > 0) || (event.key === "ArrowRight" && cell.selectionEnd < cell.value.length));
    if (atEdge) return; // the caret still moves inside the figure
    const next = move(rack, cell, ...direction);
    event.preventDefault();
    if (!next) return;
    if (event.shiftKey) hanger(cell).classList.add("on");
    else if (cell.matches("input") && cell.value !== cell.dataset.was) set(rack, cell);
    focus(rack, next, event.shiftKey);
    return;
  }
  if (event.key === "Enter") {
    event.preventDefault();
    if (mode === "number") {
      if (cell.value !== cell.dataset.was || chosen(rack).length > 1) set(rack, cell);
      const next = move(rack, cell, 0, 1) || move(rack, cell, 1, -place(cell)[1]);
      if (next && !("add" in rack.dataset)) focus(rack, next);
    } else if (mode === "make") press(rack, [cell]);
    else tell(rack, "rack-take", { variant: Number(cell.dataset.variant), cell });
    return;
  }
  if (event.key === "Escape" && cell.matches("input") && cell.value !== cell.dataset.was) {
    event.preventDefault();
    cell.value = cell.dataset.was;
    return;
  }
  if (mode === "make" && event.key === " ") { event.preventDefault(); press(rack, chosen(rack).length > 1 ? chosen(rack) : [cell]); }
  if (mode === "make" && /^[0-9]$/.test(event.key)) tell(rack, "rack-figure", { cell, choice: JSON.parse(cell.dataset.choice), key: event.key });
});

document.addEventListener("click", (event) => {
  const head = event.target.closest?.(".rack-head");
  if (head) {
    const rack = head.closest(".rack");
    const line = cellsOf(rack).filter((c) => (head.dataset.column !== undefined ? c.dataset.col === head.dataset.column : c.dataset.row === head.dataset.row));
    if (line.length === 0) return;
    if (rack.dataset.mode === "make") { press(rack, line); return; }
    focus(rack, line[0]);
    for (const c of line) hanger(c).classList.add("on");
    return;
  }
  const cell = event.target.closest?.("button.rack-cell");
  if (!cell) return;
  const rack = cell.closest(".rack");
  if (rack.dataset.mode === "make") press(rack, [cell]);
  else if (rack.dataset.mode === "pick") tell(rack, "rack-take", { variant: Number(cell.dataset.variant), cell });
});
document.addEventListener("dblclick", (event) => {
  const cell = event.target.closest?.(".rack[data-mode=look] .rack-cell");
  if (cell) tell(cell.closest(".rack"), "rack-take", { variant: Number(cell.dataset.variant), cell });
});

for (const rack of document.querySelectorAll(".rack")) settleTab(rack);
