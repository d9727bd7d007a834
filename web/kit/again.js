// Signs in again on the spot when the session has ended: the page stays as it is, and
// what was asked goes on.
let running = null;

const meta = () => document.querySelector('meta[name="csrf"]');

/** Fetches a page and returns it as a document. */
async function page(path) {
  const response = await fetch(path, { headers: { Accept: "text/html" } });
  return new DOMParser().parseFromString(await response.text(), "text/html");
}

/** Sends login and password as the page for it does; true when they were right. */
async function enter(form) {
  const token = (await page("/login")).querySelector('[name="_csrf"]')?.value || "";
  const body = new URLSearchParams({ _csrf: token, to: "/", login: form.elements.login.value, password: form.elements.password.value });
  const response = await fetch("/login", { method: "POST", body, headers: { Accept: "text/html" } });
  if (!response.ok) {
    const said = new DOMParser().parseFromString(await response.text(), "text/html").querySelector('[role="alert"]');
    return said?.textContent || "That did not work. Try again.";
  }
  await renew();
  return "";
}

/** Gives a page that is older than its session, such as one that was opened without a line, the token of
 * now. */
export async function renew() {
  const now = (await page("/me")).querySelector('meta[name="csrf"]')?.content;
  if (now) meta().content = now;
}

function field(name, label, type, autocomplete) {
  const input = Object.assign(document.createElement("input"), { name, type, required: true, autocomplete, className: "form-control" });
  const holder = document.createElement("label");
  holder.append(label, input);
  return holder;
}

/** Asks for login and password over the page, until somebody is signed in. */
export function signInAgain() {
  running ||= signedIn().then((here) => {
    if (!here) return asked();
    running = null;
  });
  return running;
}

/** Whether somebody is signed in after all: in another window, or a request came when the session had just got a new
 * secret. Then this page takes its token. */
async function signedIn() {
  const token = meta().content;
  try { await renew(); } catch { return false; }
  return meta().content !== token;
}

function asked() {
  return new Promise((done) => {
    const dialog = document.createElement("dialog");
    dialog.setAttribute("aria-labelledby", "again-title");
    dialog.innerHTML = `<form method="dialog" class="again"><h2 id="again-title">Sign in again</h2>
      <p>Your session has ended. What is typed here is kept.</p><p class="field-error" role="alert" hidden></p></form>`;
    const form = dialog.firstElementChild;
    const button = Object.assign(document.createElement("button"), { className: "act first", textContent: "Sign in and go on" });
    form.append(field("login", "Login", "text", "username"), field("password", "Password", "password", "current-password"), button);
    dialog.addEventListener("cancel", (event) => event.preventDefault());
    form.addEventListener("submit", async (event) => {
      event.preventDefault();
      button.disabled = true;
      const wrong = await enter(form).catch(() => "The shop's server does not answer.");
      button.disabled = false;
      const said = form.querySelector('[role="alert"]');
      said.hidden = !wrong;
      said.textContent = wrong;
      if (wrong) { form.elements.password.select(); return; }
      dialog.close();
      dialog.remove();
      running = null;
      done();
    });
    document.body.append(dialog);
    dialog.showModal();
    form.elements.login.focus();
  });
}
