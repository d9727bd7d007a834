// Dropping a list, so that it can be tried.
import { guarded, showRefusal, upload } from "./api.js";

const zone = document.getElementById("drop");
const sent = document.getElementById("sent");
const box = document.getElementById("form-error");
const send = guarded(async (file) => {
  if (!file) return;
  showRefusal(box, null);
  sent.hidden = false;
  try {
    const begun = await upload(`/api/v1/imports?kind=${zone.dataset.kind}&name=${encodeURIComponent(file.name)}`, file, (done, all) => { sent.value = all ? (100 * done) / all : 0; });
    location.href = "/catalog/import/" + begun.id;
  } catch (refusal) { showRefusal(box, refusal); sent.hidden = true; document.getElementById("file").value = ""; }
});
document.getElementById("file").addEventListener("change", (event) => send(event.target.files[0]));
for (const name of ["dragover", "dragleave", "drop"]) zone.addEventListener(name, (event) => { event.preventDefault(); zone.classList.toggle("over", name === "dragover"); });
zone.addEventListener("drop", (event) => send(event.dataTransfer.files[0]));
