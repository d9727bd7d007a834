import { savedForms } from "./form.js";

savedForms("[data-reason]", (form) => "/api/v1/reasons" + (Number(form.dataset.reason) ? "/" + form.dataset.reason : ""),
  (form) => (Number(form.dataset.reason) ? "PUT" : "POST"), (form) => ({ kind: form.dataset.kind }));
