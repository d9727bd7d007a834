// What a supplier sent as a file becomes a draft.
import { guarded, make, showRefusal, upload } from "./api.js";
import { plural } from "./money.js";

const file = document.getElementById("sent-file");
const box = document.getElementById("sent-error");
const said = document.getElementById("sent-said");
file?.addEventListener("change", guarded(async () => {
  if (!file.files.length) return;
  showRefusal(box, null);
  const to = file.dataset.to;
  const page = to === "bills/read" ? "/buying/bills/" : "/buying/";
  try {
    const read = await upload(`/api/v1/${to}?supplier=${document.getElementById("supplier_id").value}`, file.files[0]);
    if (!read.unknown.length && !read.not_awaited.length) { location.href = page + read.id; return; }
    said.hidden = false;
    said.replaceChildren(`▾ ${plural(read.lines, "line is", "lines are")} in `, make("a", { href: page + read.id, textContent: "the draft" }), ".",
      read.unknown.length ? ` Not told by its code, and left out: ${read.unknown.join(", ")}.` : "",
      read.not_awaited.length ? ` ${read.not_awaited.join(", ")} neither came without a bill nor is awaited: the draft has no line for it.` : "");
  } catch (refusal) { showRefusal(box, refusal); }
  file.value = "";
}));
