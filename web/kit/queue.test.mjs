// Tests of the queue by itself: node --test web/kit
import assert from "node:assert/strict";
import { register } from "node:module";
import { test } from "node:test";

// the modules lie together here, and apart where they are served
register("data:text/javascript," + encodeURIComponent(`
export const resolve = (name, context, next) => next(name.replace("../third_party/", "./third_party/"), context);
export const load = (url, context, next) => next(url, url.includes("/web/") ? { ...context, format: "module" } : context);`));
globalThis.addEventListener = () => {};
globalThis.document = { addEventListener: () => {}, hidden: false };
console.error = () => {};
globalThis.setTimeout = () => 0; // tests try again when they want to
const { openQueue } = await import("./queue.js");
const { Refusal } = await import("./api.js");

/** A device: what it keeps, and how often it was asked. full and deleted make it fail as browsers do. */
function device() {
  const d = { rows: new Map(), things: new Map(), next: 1, asked: 0, full: false, failing: false };
  const may = (writes) => {
    d.asked++;
    if (d.failing) throw new DOMException("The database is closing.", "InvalidStateError");
    if (writes && d.full) throw new DOMException("Quota exceeded.", "QuotaExceededError");
  };
  d.open = async () => ({
    async steps() { may(); return [...d.rows.values()].map((r) => structuredClone(r)); },
    async add(step) { may(true); const at = d.next++; d.rows.set(at, { ...structuredClone(step), at }); return at; },
    async put(step) { may(true); d.rows.set(step.at, structuredClone(step)); },
    async delete(at) { may(); d.rows.delete(at); },
    async keep(key, value) { may(true); d.things.set(key, value); },
    async kept(key) { may(); return d.things.get(key); },
  });
  d.erase = () => { d.rows.clear(); d.things.clear(); d.next = 1; };
  return d;
}

/** A server: what it was asked, and how it answers. */
function server(answer = () => ({})) {
  const s = { got: [], answer };
  s.send = async (step, key, person) => {
    s.got.push({ step: JSON.stringify(step), key, person });
    return s.answer(step, key, person);
  };
  return s;
}

const tobi = { id: 2, name: "Tobi Ashdown" };
const maren = { id: 1, name: "Maren Holt" };
const lost = () => { throw new Refusal({ detail: "no line", lost: true }); };

async function page(d, s, person, more = {}) {
  return openQueue("test", person, { send: s.send, sent: async () => {}, changed: async () => {}, ...more }, d.open);
}

test("a step is sent again as it was, under its key and by its person", async () => {
  const d = device(), s = server(lost);
  const q = await page(d, s, tobi);
  const step = { code: "A", done_ms: 17 };
  await q.add(step);
  step.code = "changed";
  await q.run();
  await q.run();
  assert.ok(s.got.length >= 3);
  assert.equal(new Set(s.got.map((g) => JSON.stringify(g))).size, 1);
  assert.equal(s.got[0].step, '{"code":"A","done_ms":17}');
  assert.equal(s.got[0].person, 2);
  s.answer = () => ({});
  await (await page(d, s, tobi)).run(); // after a reload of the page, too
  assert.equal(new Set(s.got.map((g) => JSON.stringify(g))).size, 1);
  assert.equal(d.rows.size, 0);
});

test("steps are sent in the order in which they were made", async () => {
  const d = device(), s = server(lost);
  const q = await page(d, s, tobi);
  for (let n = 0; n < 20; n++) await q.add({ n });
  s.got = [];
  s.answer = () => ({});
  await q.run();
  assert.deepEqual(s.got.map((g) => JSON.parse(g.step).n), [...Array(20).keys()]);
});

test("who signs in later does not get them, and is told whose they are", async () => {
  const d = device(), s = server(lost);
  const first = await page(d, s, tobi);
  await first.add({ code: "A" });
  await first.add({ code: "B" });
  s.answer = (_step, _key, person) => { if (person !== maren.id) throw new Refusal({ detail: "Somebody else", field: "person", status: 409 }); return {}; };
  await first.run();
  assert.equal(first.other, true);
  assert.equal(first.waiting.length, 2, "nothing is refused for good by it");
  assert.equal(first.refused.length, 0);
  const second = await page(d, s, maren);
  s.got = [];
  await second.run();
  assert.equal(s.got.length, 0);
  assert.deepEqual(second.others, [{ who: "Tobi Ashdown", count: 2 }]);
  s.answer = () => ({});
  await (await page(d, s, tobi)).run();
  assert.deepEqual(s.got.map((g) => g.person), [2, 2]);
});

test("exceptions of the page do not end it", async () => {
  const d = device(), s = server();
  let wrong = 0;
  const q = await page(d, s, tobi, { sent: async () => { wrong++; throw new Error("drawn wrong"); }, changed: async () => { throw new Error("also wrong"); } });
  await q.add({ n: 1 });
  await q.add({ n: 2 });
  await q.run();
  assert.equal(wrong, 2);
  assert.equal(s.got.length, 2);
  assert.equal(d.rows.size, 0);
});

test("a device that is full keeps nothing, and all is sent from the page", async () => {
  const d = device(), s = server(lost);
  const q = await page(d, s, tobi);
  await q.add({ n: 1 });
  d.full = true;
  await q.add({ n: 2 });
  assert.equal(q.unkept, true);
  assert.deepEqual(q.waiting.map((w) => w.step.n), [1, 2]);
  d.full = false; // there is room again: it is kept after all
  await q.run();
  assert.equal(q.unkept, false);
  assert.equal(d.rows.size, 2);
  s.got = [];
  s.answer = () => ({});
  await q.run();
  assert.deepEqual(s.got.map((g) => JSON.parse(g.step).n), [1, 2]);
  assert.equal(d.rows.size, 0);
});

test("a database that the browser deletes, or closes, loses nothing that a page still has", async () => {
  const d = device(), s = server(lost);
  const q = await page(d, s, tobi);
  await q.add({ n: 1 });
  d.erase();
  await q.add({ n: 2 });
  await q.run();
  assert.deepEqual(q.waiting.map((w) => w.step.n).sort(), [1, 2]);
  assert.equal(d.rows.size, 2, "it is kept again");
  d.failing = true;
  await q.add({ n: 3 });
  s.answer = () => ({});
  s.got = [];
  await q.run();
  d.failing = false;
  await q.run();
  assert.deepEqual([...new Set(s.got.map((g) => JSON.parse(g.step).n))].sort(), [1, 2, 3]);
  assert.equal(new Set(s.got.map((g) => g.key)).size, 3, "sent twice it is the same");
  assert.equal(q.waiting.length, 0);
});

test("what the server refuses is set apart, and can be done again", async () => {
  const d = device(), s = server(({ n }) => { if (n === 1) throw new Refusal({ detail: "no", field: "code", status: 400 }); return {}; });
  const q = await page(d, s, tobi);
  await q.add({ n: 1 });
  await q.add({ n: 2 });
  await q.run();
  assert.deepEqual(q.refused.map((r) => [r.step.n, r.refusal.message]), [[1, "no"]]);
  assert.equal(q.waiting.length, 0);
  const again = await page(d, s, tobi);
  await again.run();
  assert.equal(again.refused.length, 1, "after a reload, too");
  assert.deepEqual(await again.take(again.refused[0].at), { n: 1 });
  assert.equal(await again.take(99), undefined);
  assert.equal(d.rows.size, 0);
});

test("a step at which the server fails again and again does not keep the others waiting", async () => {
  const d = device(), s = server(({ n }) => { if (n === 1) throw new Refusal({ detail: "broken", status: 500 }); return {}; });
  const q = await page(d, s, tobi);
  await q.add({ n: 1 });
  await q.add({ n: 2 });
  for (let n = 0; n < 6; n++) await q.run();
  assert.deepEqual(q.refused.map((r) => r.step.n), [1]);
  assert.equal(q.waiting.length, 0);
});

test("another page of the device may have sent them", async () => {
  const d = device(), s = server(lost);
  const one = await page(d, s, tobi), other = await page(d, s, tobi);
  await one.add({ n: 1 });
  s.answer = () => ({});
  await other.run();
  s.got = [];
  await one.run();
  assert.equal(s.got.length, 0);
  assert.equal(one.waiting.length, 0);
});

test("sending asks the device a bounded number of times a step", async () => {
  const d = device(), s = server(lost);
  const q = await page(d, s, tobi);
  for (let n = 0; n < 800; n++) await q.add({ n });
  await q.run();
  d.asked = 0;
  s.answer = () => ({});
  await q.run();
  assert.equal(d.rows.size, 0);
  assert.ok(d.asked <= 2 * 800, `${d.asked} for 800 steps`);
});
