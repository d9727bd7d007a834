// Arranges the pages of tiles: dragging and arrow keys move a tile, Delete takes it off.
import { ask, guarded, make, onSubmit, showRefusal } from "./api.js";
import { onScan, say } from "./scanline.js";

const box = document.getElementById("form-error");
let last = null;

onSubmit(document.getElementById("new-page"), async (event) => {
  try {
    await ask("POST", "/api/v1/tile-pages", { name: document.getElementById("new-name").value, tiles: [], position: document.querySelectorAll(".tile-page").length });
    location.reload();
  } catch (refusal) { showRefusal(box, refusal, event.target); }
});

for (const page of document.querySelectorAll(".tile-page")) {
  const list = page.querySelector(".arrange");
  const found = page.querySelector(".found-products");
  const of = (name) => page.querySelector(`[name="${name}"]`);
  last ||= page;
  page.addEventListener("focusin", () => { last = page; });
  let changed = false;
  const touch = () => {
    changed = true;
    page.querySelector("[data-empty]").hidden = list.childElementCount > 0;
  };
  addEventListener("beforeunload", (event) => { if (changed) event.preventDefault(); });

  function add(kind, id, name, colour) {
    const bar = document.createElementNS("http://www.w3.org/2000/svg", "svg");
    bar.setAttribute("class", "tile-bar");
    bar.setAttribute("width", "100%");
    bar.setAttribute("height", "7");
    bar.setAttribute("aria-hidden", "true");
    bar.innerHTML = '<rect width="100%" height="7" rx="2"/>';
    bar.firstElementChild.setAttribute("fill", colour || "#6B7780");
    const tile = make("li", { className: "tile", tabIndex: 0, draggable: true }, bar, make("span", { textContent: name }));
    tile.dataset.category = kind === "category" ? id : 0;
    tile.dataset.product = kind === "product" ? id : 0;
    list.append(tile);
    touch();
    tile.focus();
  }
  page.add = (f) => add("product", f.kind === "variant" ? f.product_id : f.id, f.name);

  of("category").addEventListener("change", (event) => {
    const chosen = event.target.selectedOptions[0];
    if (chosen.value !== "0") add("category", chosen.value, chosen.textContent, chosen.dataset.colour);
    event.target.value = "0";
  });
  let timer = 0;
  of("q").addEventListener("input", () => { clearTimeout(timer); timer = setTimeout(look, 150); });
  async function look() {
    const words = of("q").value.trim();
    if (!words) { found.replaceChildren(); return; }
    const list = (await ask("GET", "/api/v1/find?q=" + encodeURIComponent(words))).filter((f) => f.kind === "product" || f.kind === "variant");
    found.replaceChildren(...list.slice(0, 8).map((f) => {
      const button = make("button", { type: "button", className: "act" }, f.name, " ", make("small", { textContent: f.detail || "" }));
      button.addEventListener("click", () => { page.add(f); of("q").value = ""; found.replaceChildren(); }, { once: true });
      return make("li", {}, button);
    }));
  }

  // --- arranging ----------------------------------------------------------
  let dragged = null;
  list.addEventListener("dragstart", (event) => { dragged = event.target.closest(".tile"); event.dataTransfer.effectAllowed = "move"; });
  list.addEventListener("dragover", (event) => {
    const over = event.target.closest(".tile");
    if (!dragged) return;
    event.preventDefault();
    if (!over || over === dragged) return;
    const before = over.compareDocumentPosition(dragged) & Node.DOCUMENT_POSITION_FOLLOWING;
    list.insertBefore(dragged, before ? over : over.nextSibling);
  });
  list.addEventListener("drop", (event) => { event.preventDefault(); dragged = null; touch(); });
  list.addEventListener("keydown", (event) => {
    const tile = event.target.closest(".tile");
    if (!tile) return;
    const step = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key];
    if (step) {
      event.preventDefault();
      if (step < 0 && tile.previousElementSibling) tile.previousElementSibling.before(tile);
      if (step > 0 && tile.nextElementSibling) tile.nextElementSibling.after(tile);
      tile.focus();
      touch();
    }
    if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      (tile.nextElementSibling || tile.previousElementSibling || of("q")).focus();
      tile.remove();
      touch();
    }
  });
  of("name").addEventListener("input", touch);

  page.querySelector("[data-save]").addEventListener("click", guarded(async () => {
    const tiles = [...list.children].map((t) => ({ category_id: Number(t.dataset.category), product_id: Number(t.dataset.product) }));
    try {
      const kept = await ask("PUT", "/api/v1/tile-pages/" + page.dataset.page, { name: of("name").value, tiles, position: Number(page.dataset.position), revision: Number(page.dataset.revision) });
      page.dataset.revision = kept.revision;
      changed = false;
      showRefusal(box, null, page);
      say(`✓ ${kept.name} is kept.`);
    } catch (refusal) { showRefusal(box, refusal, page); }
  }));
  page.querySelector("[data-drop]").addEventListener("click", guarded(async () => {
    try {
      await ask("DELETE", "/api/v1/tile-pages/" + page.dataset.page);
      changed = false;
      location.reload();
    } catch (refusal) { showRefusal(box, refusal, page); }
  }));
}

onScan(async (text) => {
  if (!last) return;
  const list = (await ask("GET", "/api/v1/find?q=" + encodeURIComponent(text))).filter((f) => f.kind === "product" || f.kind === "variant");
  if (list.length) last.add(list[0]);
  else say(`Nothing here is called ${text}.`, null, true);
});
