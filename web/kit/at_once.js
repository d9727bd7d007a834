// Answers that are shown at once. After a key a browser first shows what the key did, and lets what comes
// from the network wait for that frame: the answer to a scan, which ends with a key, would be a frame late.
// What a worker says on a broadcast channel does not wait, so there the requests are made by one.
import { newKey, sendBy } from "./api.js";

/** How long, in milliseconds, an answer is waited for before the worker is asked whether it is there, and how long
 * that may take it. */
const longWait = 300;
const mostSilence = 200;

/** From now on, answers to what ask sends are taken as they come. */
export function answerAtOnce() {
  if (!window.Worker || !window.BroadcastChannel) return;
  const name = newKey();
  const channel = new BroadcastChannel(name);
  const worker = new Worker(new URL("../js/at_once_worker.js", import.meta.url), { name });
  const waiting = new Map();
  let count = 0;
  const lose = () => { for (const one of waiting.values()) one.fail(new TypeError("The answer was lost.")); waiting.clear(); };
  channel.onmessage = ({ data: { id, answer, here } }) => {
    if (here) { there(); return; }
    const one = waiting.get(id);
    waiting.delete(id);
    if (answer) one?.done(answer);
    else one?.fail(new TypeError("There was no answer."));
  };
  const withoutIt = () => { sendBy(null); lose(); };
  worker.onerror = withoutIt;
  // A worker that says nothing is asked whether it is there still; gone, the page sends by itself.
  const look = (id) => {
    if (!waiting.has(id)) return;
    const gone = setTimeout(withoutIt, mostSilence);
    there = () => clearTimeout(gone);
    worker.postMessage({ there: true });
  };
  let there = () => {};
  // A page that comes back may have missed what was said meanwhile.
  addEventListener("pageshow", (event) => { if (event.persisted) lose(); });
  sendBy((path, options) => new Promise((done, fail) => {
    waiting.set(++count, { done, fail });
    worker.postMessage({ id: count, path, options });
    setTimeout(look, longWait, count);
  }));
}
