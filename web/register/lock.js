// Who is at the register: people come with a PIN, and after a time without a touch the page waits
// for one.
import { ask } from "./api.js";
import { withPIN } from "./approve.js";

const after = Number(document.querySelector("[data-lock-after]")?.dataset.lockAfter || 0) * 60_000;

/** Changes the person at the register; what is on the page is kept by the server. */
export async function changePerson() {
  const here = await withPIN("Who is at the register?", "The basket stays as it is.", "Go on", (who) => ask("POST", "/api/v1/at-register", who), "sell");
  if (here) location.reload();
}

/** Locks the page: it goes on with a PIN. */
export async function lock() {
  try { await ask("POST", "/api/v1/lock"); } catch { return; }
  location.href = "/locked?to=" + encodeURIComponent(location.pathname + location.search);
}

if (after > 0) {
  let timer = 0;
  const touched = () => { clearTimeout(timer); timer = setTimeout(lock, after); };
  for (const kind of ["keydown", "pointerdown", "pointermove", "touchstart"]) document.addEventListener(kind, touched, { passive: true });
  touched();
}
