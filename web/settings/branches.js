import { savedForms } from "./form.js";

savedForms("[data-place]", (form) => "/api/v1/" + form.dataset.place, (form) => (form.dataset.place.includes("/") ? "PUT" : "POST"));
