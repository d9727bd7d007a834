// What is done on a device whose line may drop: kept on the device in the order in which it was done, and sent in that
// order once there is a line. A step is made once, with its key and its person, and sent as it is each time. What the
// server refuses is set apart, not lost. Steps are sent by the person who did them only.
import { newKey } from "./api.js";
import { openStore } from "./queue_store.js";

/** How often a step is tried at which the server itself fails, before it is set apart. */
const mostFailures = 5;

/** Opens the queue of a page for a person ({ id, name }): send gets a step with its key and person and answers as the
 * server does, sent is told the answer and the step, changed is called whenever something of it has changed. */
export async function openQueue(name, person, { send, sent, changed }, open = openStore) {
  const store = await open(name);
  // others: who else has steps here, and how many; other: somebody else is signed in; unkept: the device keeps no steps
  const queue = { person, down: false, last: null, waiting: [], refused: [], others: [], other: false, unkept: false };
  let steps = []; // all of the device, in their order
  let loose = 0; // steps that the device does not keep have numbers below zero
  let timer = 0;
  let again = 1000; // milliseconds until it is tried again
  let last = Promise.resolve();
  let failed = { at: 0, times: 0 };

  const mine = (s) => s.person === person.id;
  const report = (error) => console.error("queue " + name, error);

  /** Reads what is on the device: another page of it may have sent some. That its database was deleted meanwhile is told
   * by a mark that is not there. */
  async function reload() {
    const before = new Set(steps.map((s) => s.key));
    try {
      let kept = await store.steps();
      const there = (await store.kept("queue")) === "here";
      if (!there) {
        await store.keep("queue", "here");
        kept = await store.steps();
      }
      const known = new Set(kept.map((s) => s.key));
      const missing = steps.filter((s) => !known.has(s.key) && (s.at < 0 || !there || !before.has(s.key)));
      steps = [...kept, ...missing];
      for (const s of missing) if (before.has(s.key)) await keep(s); // one that is new is being kept
      queue.unkept = steps.some((s) => s.at < 0);
    } catch (error) {
      report(error);
      queue.unkept = steps.length > 0;
    }
  }

  /** Gives a step to the device to keep; what it does not keep stays in the page. */
  async function keep(s) {
    const { at, ...rest } = s;
    try {
      s.at = await store.add(rest);
    } catch (error) {
      report(error);
      s.at = at < 0 ? at : --loose;
      queue.unkept = true;
    }
  }

  async function forget(s) {
    steps = steps.filter((other) => other !== s);
    if (s.at > 0) await store.delete(s.at).catch(report); // sent again, it would be the same
  }

  async function tell() {
    queue.waiting = steps.filter((s) => mine(s) && !s.refusal);
    queue.refused = steps.filter((s) => mine(s) && s.refusal);
    const others = new Map();
    for (const s of steps) if (!mine(s)) others.set(s.name || "somebody else", (others.get(s.name || "somebody else") || 0) + 1);
    queue.others = [...others].map(([who, count]) => ({ who, count }));
    try { await changed(); } catch (error) { report(error); }
  }

  function later() {
    queue.down = true;
    clearTimeout(timer);
    timer = setTimeout(run, again);
    again = Math.min(again * 2, 15_000);
  }

  async function sendAll() {
    await reload();
    for (let next; (next = steps.find((s) => mine(s) && !s.refusal));) {
      let answer;
      try {
        answer = await send(next.step, next.key, person.id);
      } catch (refusal) {
        if (refusal.field === "person") { queue.other = true; break; }
        // a step at which the server itself fails, again and again, does not keep the others waiting
        failed = refusal.status === 500 && failed.at === next.at ? { at: next.at, times: failed.times + 1 } : { at: next.at, times: 1 };
        if (failed.times < mostFailures && (refusal.lost || refusal.status >= 500 || refusal.status === 429 || !refusal.status)) {
          later();
          break;
        }
        next.refusal = { message: refusal.message, field: refusal.field, status: refusal.status };
        if (next.at > 0) await store.put(next).catch(report);
        await tell();
        continue;
      }
      await forget(next);
      Object.assign(queue, { down: false, other: false, last: new Date() });
      again = 1000;
      try { await sent(answer, next.step); } catch (error) { report(error); }
      await tell();
    }
    await tell();
  }

  // one page of a device sends at a time; another one waits
  const alone = (work) => (globalThis.navigator?.locks ? navigator.locks.request("itemrack-" + name, work) : work());

  /** Sends what waits; resolves when all that can be sent is sent. */
  function run() {
    last = last.then(() => alone(sendAll)).catch((error) => { report(error); later(); });
    return last;
  }
  addEventListener("online", () => { again = 1000; run(); });
  document.addEventListener("visibilitychange", () => { if (!document.hidden) run(); });

  await reload();
  return Object.assign(queue, {
    run,
    /** Adds a step, which is not changed any more. */
    async add(step) {
      const one = { at: --loose, step: structuredClone(step), person: person.id, name: person.name, key: newKey() };
      steps.push(one);
      await keep(one);
      await tell();
      run(); // nobody waits for the line
    },
    /** Forgets a step that was refused. */
    async drop(at) {
      const one = steps.find((s) => s.at === at);
      if (one) await forget(one);
      await tell();
    },
    /** Takes a step that was refused out, to be done again; nothing where it was taken already. */
    async take(at) {
      const one = steps.find((s) => s.at === at && s.refusal);
      if (one) await forget(one);
      await tell();
      return one?.step;
    },
    /** What a page keeps on the device beside its steps. */
    keep: (key, value) => store.keep(key, value).catch(report),
    kept: (key) => store.kept(key).catch((error) => { report(error); }),
  });
}
