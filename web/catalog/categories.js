// Categories: their picture, merging and dropping.
import { ask, guarded, showRefusal, upload } from "./api.js";

const merge = document.getElementById("merge");
if (merge) {
  const id = merge.dataset.category;
  const error = document.getElementById("merge-error");
  const send = guarded(async () => {
    const into = Number(document.getElementById("into").value);
    try { await ask("POST", `/api/v1/categories/${id}/merge`, { into }); location.href = "/catalog/categories?at=" + into; } catch (refusal) { showRefusal(error, refusal); }
  });
  merge.addEventListener("submit", (event) => { event.preventDefault(); send(); });
  document.getElementById("drop-category")?.addEventListener("click", guarded(async () => {
    try { await ask("DELETE", "/api/v1/categories/" + id); location.href = "/catalog/categories"; } catch (refusal) { showRefusal(error, refusal); }
  }));
  document.getElementById("picture").addEventListener("change", guarded(async (event) => {
    const file = event.target.files[0];
    try { await upload(`/api/v1/categories/${id}/picture?name=${encodeURIComponent(file.name)}`, file); location.reload(); } catch (refusal) { showRefusal(document.getElementById("picture-error"), refusal); }
  }));
}
