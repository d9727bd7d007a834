// What is done on a device whose line may drop: kept on the device (IndexedDB) in the order in which
// it was done, and sent in that order once there is a line, each step under a key of its own, so
// that it counts once. What the server refuses is set apart, not lost. Steps are sent by the person
// who did them only.
import { openDB } from "../third_party/idb.js";
import { newKey } from "./api.js";

/** Opens the queue of a page: send gets a step and its key and answers as the server does, sent is told
 * the answer and the step, changed is called whenever something of it has changed. */
export async function openQueue(name, person, { send, sent, changed }) {
  const db = await openDB("itemrack-" + name, 1, {
    upgrade(db) {
      db.createObjectStore("steps", { keyPath: "at", autoIncrement: true });
      db.createObjectStore("kept");
    },
  });
  const queue = { down: false, last: null, waiting: [], refused: [], others: 0 };
  let timer = 0;
  let again = 1000; // milliseconds until it is tried again
  let last = Promise.resolve();
  let failed = { at: 0, times: 0 };

  async function tell() {
    const all = await db.getAll("steps");
    const mine = all.filter((s) => s.person === person);
    queue.waiting = mine.filter((s) => !s.refusal);
    queue.refused = mine.filter((s) => s.refusal);
    queue.others = all.length - mine.length;
    await changed();
  }

  async function sendAll() {
    for (;;) {
      const next = (await db.getAll("steps")).find((s) => s.person === person && !s.refusal);
      if (!next) break;
      let answer;
      try {
        answer = await send(next.step, next.key);
      } catch (refusal) {
        // a step at which the server itself fails, again and again, does not keep the others waiting
        failed = refusal.status === 500 && failed.at === next.at ? { at: next.at, times: failed.times + 1 } : { at: next.at, times: 1 };
        if (failed.times < 5 && (refusal.lost || refusal.status >= 500 || refusal.status === 429 || !refusal.status)) {
          queue.down = true;
          clearTimeout(timer);
          timer = setTimeout(run, again);
          again = Math.min(again * 2, 15_000);
          break;
        }
        await db.put("steps", { ...next, refusal: { message: refusal.message, field: refusal.field, status: refusal.status } });
        await tell();
        continue;
      }
      await db.delete("steps", next.at);
      Object.assign(queue, { down: false, last: new Date() });
      again = 1000;
      await sent(answer, next.step);
      await tell();
    }
    await tell();
  }

  // one page of a device sends at a time; another one waits
  const alone = (work) => (navigator.locks ? navigator.locks.request("itemrack-" + name, work) : work());

  /** Sends what waits; resolves when all that can be sent is sent. */
  function run() {
    last = last.then(() => alone(sendAll));
    return last;
  }
  addEventListener("online", () => { again = 1000; run(); });
  document.addEventListener("visibilitychange", () => { if (!document.hidden) run(); });

  return Object.assign(queue, {
    run,
    async add(step) {
      await db.add("steps", { step, person, key: newKey() });
      await tell();
      run();
    },
    /** Forgets a step that was refused. */
    async drop(at) { await db.delete("steps", at); await tell(); },
    /** Takes a step that was refused out, to be done again; nothing where it was taken already. */
    async take(at) {
      const all = db.transaction("steps", "readwrite");
      const found = await all.store.get(at);
      if (found) await all.store.delete(at);
      await all.done;
      await tell();
      return found?.step;
    },
    /** What a page keeps on the device beside its steps. */
    keep: (key, value) => db.put("kept", value, key),
    kept: (key) => db.get("kept", key),
  });
}
