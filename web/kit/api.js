// Talks to the API. A deed gets a request key, so that asking again after a lost
// answer does not do it twice.

/** A refusal: detail is the sentence to show, field where it belongs. */
export class Refusal extends Error {
  constructor(problem) {
    super(problem.detail || "Something went wrong.");
    Object.assign(this, problem);
  }
}

import { renew, signInAgain } from "./again.js";

const csrf = () => document.querySelector('meta[name="csrf"]').content;

/** A new request key. */
export const newKey = () => Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, "0")).join("");

/** Sends a request and returns its answer, read whole: status, type, text. */
const direct = async (path, options) => {
  const answer = await fetch(path, options);
  return { status: answer.status, type: answer.headers.get("Content-Type") || "", text: await answer.text() };
};

let send = direct;

/** Lets requests of ask be sent in another way; null is the usual one. */
export function sendBy(way) { send = way || direct; }

// What was sent and not answered yet is kept for as long as the page's tab is, so that the same, sent again after
// a lost answer or a reload, goes under the key that it had, and is done once.
const waits = "unanswered";
const told = 10 * 60 * 1000; // milliseconds for which what was posted, and told, is still that one if it is sent again
const unanswered = () => JSON.parse(sessionStorage.getItem(waits) || "[]").filter((one) => !one.told || Date.now() - one.told < told);
function keepUnanswered(list) {
  try { sessionStorage.setItem(waits, JSON.stringify(list)); } catch { /* it is full: what is too long is not kept */ }
}

/** The keys under which this page waits for an answer now: the same, sent once more meanwhile, is meant twice. */
const flying = new Set();

/** What nobody is to find here. */
const secret = /"(pin|password|old_password)":/;

/** What is sent, but for who said yes to it. */
function sentAs(method, path, body) {
  const { approval, ...rest } = body && typeof body === "object" && !Array.isArray(body) ? body : { rest: body };
  return `${method} ${path} ${JSON.stringify(rest)}`;
}

/** The key under which something is sent: that of the same before, whose answer never came. */
function keyFor(method, path, body, key) {
  const what = sentAs(method, path, body);
  if (secret.test(what)) return key;
  const list = unanswered();
  const before = list.find((one) => one.what === what && !flying.has(one.key));
  flying.add(before?.key || key);
  if (before) return before.key;
  keepUnanswered([...list, { key, what, at: Date.now() }].slice(-20));
  return key;
}

/** Takes note that there was an answer. */
function answered(key) {
  flying.delete(key);
  keepUnanswered(unanswered().filter((one) => one.key !== key));
}

/** Tells what came of what was sent by a page that is gone: the numbers of what was posted, and how many did not
 * arrive. What did not arrive keeps its key, and so does, for a while, what was posted: sent again, it meets itself. */
export async function whatCameOf() {
  const numbers = [];
  let lost = 0;
  for (const one of unanswered().filter((each) => !each.told)) {
    const of = await ask("GET", "/api/v1/requests/" + one.key);
    if (of.number) {
      numbers.push(of.number);
      keepUnanswered(unanswered().map((each) => (each.key === one.key ? { ...each, told: Date.now() } : each)));
    } else if (of.done) answered(one.key);
    else lost++;
  }
  return { numbers, lost };
}

let about = null;

/** From now on what is asked at addresses that begin so says which basket it is about: the one that is shown. */
export function askAbout(base, basket) { about = { base, basket }; }

/** Asks the API and returns the answer, or throws a Refusal. A lost connection is
 * tried twice more under the same key. Of a person, it is refused when somebody else is signed in by then. */
export async function ask(method, path, body, key, person) {
  const headers = { Accept: "application/json" };
  if (person) headers["Person"] = String(person);
  if (about && path.startsWith(about.base)) headers["Basket"] = String(about.basket());
  if (method !== "GET") headers["Idempotency-Key"] = keyFor(method, path, body, key || newKey());
  if (body !== undefined) headers["Content-Type"] = "application/json";
  for (let attempt = 0; ; attempt++) {
    let response;
    headers["X-Csrf-Token"] = csrf();
    headers["Device-Clock"] = String(Date.now()); // what was done before is so long ago by this clock
    try {
      response = await send(path, { method, headers, body: body === undefined ? undefined : JSON.stringify(body) });
    } catch {
      if (attempt < 2) {
        await new Promise((done) => setTimeout(done, 400 * (attempt + 1)));
        continue;
      }
      flying.delete(headers["Idempotency-Key"]);
      throw new Refusal({ detail: "The shop's server does not answer. Nothing typed is lost; try again.", lost: true });
    }
    const { status, type, text } = response;
    if (status === 401) {
      await signInAgain();
      continue;
    }
    const answer = type.includes("json") ? JSON.parse(text) : text;
    if (method !== "GET" && !(status === 403 && answer.field === "_csrf" && attempt === 0)) answered(headers["Idempotency-Key"]);
    if (status === 403 && answer.field === "_csrf" && attempt === 0) {
      await renew().catch(() => { /* it is asked again below */ });
      continue;
    }
    if (status < 200 || status > 299) throw new Refusal(type.includes("json") ? answer : { detail: "Something went wrong. Try again." });
    return answer;
  }
}

/** Sends a file as it is, and tells how much of it has gone. */
export function upload(path, file, tell) {
  return new Promise((done, fail) => {
    const request = new XMLHttpRequest();
    request.open("POST", path);
    request.setRequestHeader("X-Csrf-Token", csrf());
    request.setRequestHeader("Accept", "application/json");
    request.setRequestHeader("Content-Type", file.type || "application/octet-stream");
    request.upload.onprogress = (event) => tell?.(event.loaded, event.total);
    request.onerror = () => fail(new Refusal({ detail: "The shop's server does not answer. Nothing typed is lost; try again.", lost: true }));
    request.onload = () => {
      if (request.status === 401) {
        signInAgain().then(() => upload(path, file, tell)).then(done, fail);
        return;
      }
      let answer = {};
      try { answer = JSON.parse(request.responseText); } catch { /* said below */ }
      if (request.status >= 200 && request.status < 300) done(answer);
      else fail(new Refusal(answer));
    };
    request.send(file);
  });
}

/** Fetches a part of a page as HTML. */
export async function part(path, body) {
  const options = body === undefined ? { headers: {} } : { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) };
  let response;
  for (;;) {
    const headers = { ...options.headers, "X-Csrf-Token": csrf(), Accept: "application/problem+json, text/html;q=0.9" };
    response = await fetch(path, { ...options, headers });
    if (response.status !== 401 && !(response.redirected && new URL(response.url).pathname === "/login")) break;
    await signInAgain();
  }
  const type = response.headers.get("Content-Type") || "";
  if (!response.ok) throw new Refusal(type.includes("json") ? await response.json() : { detail: "Something went wrong. Try again." });
  return response.text();
}

/** What would be right, as the server says it, or a page that refuses by itself. */
function advice(refusal) {
  if ("status" in refusal) return refusal.advice;
  return refusal.want ? `Right would be: ${refusal.want}.` : "";
}

/** Shows a refusal in an element, and marks the field it is about; null clears. */
export function showRefusal(box, refusal, form) {
  if (form) for (const input of form.querySelectorAll('[aria-invalid="true"]')) input.removeAttribute("aria-invalid");
  if (!box) return;
  box.hidden = !refusal;
  box.textContent = refusal ? [refusal.message, advice(refusal)].filter(Boolean).join(" ") : "";
  if (refusal && form && refusal.field) {
    const input = form.querySelector(`[name="${CSS.escape(refusal.field)}"]`);
    if (input) {
      const shown = input.type === "hidden" ? input.nextElementSibling?.querySelector("select, input") || input : input;
      shown.setAttribute("aria-invalid", "true");
      shown.focus();
    }
  }
  if (refusal) inSight(box);
}

/** Brings a refusal into sight that stands where the page is scrolled away from. */
function inSight(box) {
  const { top, bottom } = box.getBoundingClientRect();
  if (top < 0 || bottom > innerHeight) box.scrollIntoView({ block: "center" });
}

/** Keeps a deed from being started twice while it runs. */
export function guarded(work) {
  let running = false;
  return async (...args) => {
    if (running) return;
    running = true;
    try {
      return await work(...args);
    } finally {
      running = false;
    }
  };
}

/** Does work when a form is sent, once at a time; the page stays. */
export function onSubmit(form, work) {
  const once = guarded(work);
  form.addEventListener("submit", (event) => { event.preventDefault(); once(event); });
}

/** Makes an element. */
export function make(tag, properties = {}, ...children) {
  const element = document.createElement(tag);
  for (const [name, value] of Object.entries(properties)) {
    if (name in element && name !== "list") element[name] = value;
    else element.setAttribute(name, value);
  }
  element.append(...children);
  return element;
}
