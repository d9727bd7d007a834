// Where the steps of a queue are kept on the device: IndexedDB. A database that the browser closed or deleted is opened
// anew at the next step.
import { openDB } from "../third_party/idb.js";

/** Opens the store of a queue. Each of its functions fails when the device does not keep it. */
export async function openStore(name) {
  const open = () => openDB("itemrack-" + name, 1, {
    upgrade(db) {
      db.createObjectStore("steps", { keyPath: "at", autoIncrement: true });
      db.createObjectStore("kept");
    },
    terminated() { opened = null; },
    blocking(_now, _next, event) { event.target.close(); opened = null; }, // so that it can be deleted
  });
  let opened = await open();
  const within = async (work) => {
    opened ??= await open();
    try {
      return await work(opened);
    } catch (error) {
      if (error.name !== "InvalidStateError") throw error;
      opened = await open(); // it was closed meanwhile
      return work(opened);
    }
  };
  return {
    steps: () => within((db) => db.getAll("steps")),
    add: (step) => within((db) => db.add("steps", step)),
    put: (step) => within((db) => db.put("steps", step)),
    delete: (at) => within((db) => db.delete("steps", at)),
    keep: (key, value) => within((db) => db.put("kept", value, key)),
    kept: (key) => within((db) => db.get("kept", key)),
  };
}
