// An order that is read from a file.
import { guarded, make, showRefusal, upload } from "./api.js";
import { plural } from "./money.js";

const file = document.getElementById("order-file");
const said = document.getElementById("file-said");
const box = document.getElementById("file-error");
file?.addEventListener("change", guarded(async () => {
  if (!file.files.length) return;
  const query = `supplier=${document.getElementById("supplier_id").value}&branch=${document.getElementById("branch_id").value}`;
  showRefusal(box, null);
  try {
    const read = await upload(`/api/v1/orders/read?${query}`, file.files[0]);
    if (!read.unknown.length) { location.href = "/buying/orders/" + read.id; return; }
    said.hidden = false;
    said.replaceChildren(`▾ ${plural(read.lines, "line is", "lines are")} in `, make("a", { href: "/buying/orders/" + read.id, textContent: read.number }), `. Not told by its code, and left out: ${read.unknown.join(", ")}.`);
  } catch (refusal) { showRefusal(box, refusal); }
  file.value = "";
}));
