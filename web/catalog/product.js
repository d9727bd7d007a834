import { showTag } from "./swingtag.js";

const first = document.getElementById("product").dataset.first;
document.addEventListener("rack-choose", (event) => showTag(event.detail.variant));
document.addEventListener("rack-take", (event) => { location.href = "/stock/" + event.detail.variant; });
const cell = document.querySelector(`.rack-cell[data-variant="${CSS.escape(first || "")}"]`) || document.querySelector(".rack-cell");
cell?.focus();
