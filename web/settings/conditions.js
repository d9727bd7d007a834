import { savedForms } from "./form.js";

const days = (form) => { const typed = form.elements.days.value.trim(); return { days: typed === "" ? null : /^\d+$/.test(typed) ? Number(typed) : -1, percent: form.elements.percent?.value ?? "", sold: form.elements.sold.checked }; };
savedForms("[data-condition]", (form) => "/api/v1/conditions" + (Number(form.dataset.condition) ? "/" + form.dataset.condition : ""),
  (form) => (Number(form.dataset.condition) ? "PUT" : "POST"), days);
