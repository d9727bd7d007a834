// What pages for the hand have in common: what they sound and feel like, how they tell what waits for
// the line, the camera, and that they open without a server.
import { guarded, make, showRefusal } from "./api.js";
import { hasCamera, openCamera } from "./camera.js";
import { plural } from "./money.js";
import { play } from "./sound.js";

// good, to be looked at, not known
const kinds = { good: [[[0, 1320, 0.06]], [50]], look: [[[0, 660, 0.1], [0.16, 660, 0.1]], [60, 60, 60]], wrong: [[[0, 200, 0.35]], [260]] };

/** Says by sound and touch how it went. */
export function signal(kind) {
  const [notes, touch] = kinds[kind];
  navigator.vibrate?.(touch);
  play(notes);
}

/** A button. */
export function button(text, click, properties = {}) {
  const b = make("button", { type: "button", className: "act", textContent: text, ...properties });
  b.addEventListener("click", click);
  return b;
}

/** Who is at a page for the hand. */
export const personOf = (root) => ({ id: Number(root.dataset.person), name: root.dataset.name });

/** Tells how many steps of a queue wait, and why. */
export function drawLine(queue, box, number, said) {
  const wait = queue.waiting.length;
  box.hidden = !(queue.down || queue.other || queue.unkept || wait > 2 || queue.others.length > 0);
  if (queue.other) {
    number.textContent = "";
    said.replaceChildren(make("b", { textContent: `${plural(wait, "step", "steps")} of ${queue.person.name} ${wait === 1 ? "stays" : "stay"} on this device` }), ": somebody else has signed in since. They are sent when the one who made them signs in again. ",
      button("Leave them and go on", () => location.reload()));
    return;
  }
  number.textContent = wait || "";
  const sentAt = queue.last ? ` The last was sent at ${queue.last.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}.` : "";
  said.replaceChildren(queue.down ? make("b", { textContent: wait ? "kept on this device: the line is down." : "The line is down." }) : wait ? make("b", { textContent: "being sent." }) : "",
    queue.down ? `${sentAt} Go on; the rest follows by itself.` : "",
    queue.unkept ? " This device has no room for them: leave this page open until they are sent." : "",
    ...queue.others.map((o) => ` ${plural(o.count, "step", "steps")} of ${o.who} ${o.count === 1 ? "waits" : "wait"} here until they sign in.`));
}

/** Lets a button switch the camera on and off: found is told each code. Returns how to close it. */
export function cameraOn({ switcher, view, video, light, box }, found) {
  let camera = null;
  function close() {
    camera?.stop();
    camera = null;
    view.hidden = true;
    switcher.setAttribute("aria-pressed", "false");
  }
  switcher.addEventListener("click", guarded(async () => {
    if (camera) { close(); return; }
    if (!hasCamera()) { showRefusal(box, { message: "The camera can only be asked for over TLS, or on the machine itself. README says how." }); return; }
    view.hidden = false;
    try {
      camera = await openCamera(video, found);
    } catch (wrong) {
      close();
      showRefusal(box, { message: `The camera can't be used: ${wrong.message}` });
      return;
    }
    switcher.setAttribute("aria-pressed", "true");
    light.hidden = !camera.light;
  }));
  light.addEventListener("click", () => {
    const on = light.getAttribute("aria-pressed") !== "true";
    camera.light(on);
    light.setAttribute("aria-pressed", String(on));
  });
  return close;
}

/** Keeps the page on the device, whole, so that it opens without a server. */
export async function keepPage(path) {
  if (!("serviceWorker" in navigator)) return;
  await navigator.serviceWorker.register(path + "-worker.js", { scope: path });
  await navigator.serviceWorker.ready;
  const store = await caches.open("itemrack" + path.replaceAll("/", "-"));
  const parts = [...new Set([...performance.getEntriesByType("resource").map((e) => e.name), ...["third_party/zxing/reader/index.js", "third_party/zxing/share.js", "third_party/zxing/zxing_reader.wasm"].map((p) => new URL("../" + p, import.meta.url).href)])]
    .filter((name) => new URL(name).pathname.startsWith("/static/"));
  for (const kept of await store.keys()) if (new URL(kept.url).pathname.startsWith("/static/") && !parts.includes(kept.url)) await store.delete(kept);
  const missing = [];
  for (const name of parts) if (!(await store.match(name))) missing.push(name);
  await store.addAll(missing);
  const page = await fetch(path, { headers: { Accept: "text/html" } });
  if (page.ok && !page.redirected) await store.put(path, page);
  document.documentElement.dataset.kept = "yes";
}
