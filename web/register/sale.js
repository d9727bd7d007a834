import { ask, guarded, showRefusal } from "./api.js";
import { onScan } from "./scanline.js";

const next = document.getElementById("next");
if (next) {
  next.focus();
  // A scan on the finished sale begins the next basket.
  onScan(async (text) => {
    await ask("POST", `/api/v1/registers/${next.href.split("/").pop()}/basket/lines`, { code: text });
    location.href = next.href;
  });
}
document.getElementById("reprint")?.addEventListener("click", guarded(async (event) => {
  const box = document.getElementById("form-error");
  const done = document.getElementById("done");
  try {
    await ask("POST", `/api/v1/sales/${event.target.dataset.number}/print`);
    showRefusal(box, null);
    done.hidden = false;
    done.textContent = "✓ Printed again.";
  } catch (refusal) { done.hidden = true; showRefusal(box, refusal); }
}));
