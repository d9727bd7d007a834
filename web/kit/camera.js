// The camera as a scanner: by the browser's own detector where it has one that reads what we print, else
// by a library that ships with the program. A code that is held still is scanned once; it has to
// leave the picture before it is scanned again.
const formats = ["ean_13", "ean_8", "upc_a", "upc_e", "itf", "code_128", "qr_code", "data_matrix"];
const needed = ["ean_13", "code_128", "qr_code", "data_matrix"];
const apart = 1200; // milliseconds without a code until the same one counts anew
const pace = 90; // milliseconds between two looks

/** Returns a function that reads the codes of a picture. */
async function reader() {
  if ("BarcodeDetector" in window) {
    const has = await window.BarcodeDetector.getSupportedFormats();
    if (needed.every((f) => has.includes(f))) {
      const detector = new window.BarcodeDetector({ formats: formats.filter((f) => has.includes(f)) });
      return async (canvas) => (await detector.detect(canvas)).map((c) => c.rawValue);
    }
  }
  const { prepareZXingModule, readBarcodes } = await import("../third_party/zxing/reader/index.js");
  prepareZXingModule({ overrides: { locateFile: () => new URL("../third_party/zxing/zxing_reader.wasm", import.meta.url).href } });
  const options = { formats: ["EAN13", "EAN8", "UPCA", "UPCE", "ITF", "Code128", "QRCode", "DataMatrix"], tryHarder: true, maxNumberOfSymbols: 1, textMode: "Plain" };
  return async (canvas) => (await readBarcodes(canvas.getContext("2d").getImageData(0, 0, canvas.width, canvas.height), options)).map((c) => (c.contentType === "GS1" ? c.symbologyIdentifier : "") + c.text);
}

/** Whether a page may ask for the camera at all: over TLS, or on the machine itself. */
export const hasCamera = () => Boolean(navigator.mediaDevices?.getUserMedia);

/** Shows the camera in a video element and tells found each code, once. Returns how to stop it, and how to
 * switch its light; null where it has none. */
export async function openCamera(video, found) {
  const stream = await navigator.mediaDevices.getUserMedia({ audio: false, video: { facingMode: { ideal: "environment" }, width: { ideal: 1280 }, height: { ideal: 720 } } });
  video.srcObject = stream;
  await video.play();
  const read = await reader();
  const canvas = document.createElement("canvas");
  canvas.getContext("2d", { willReadFrequently: true });
  let before = "";
  let seen = 0;
  let timer = 0;
  let over = false;

  async function look() {
    if (over) return;
    const { videoWidth: w, videoHeight: h } = video;
    if (w && !document.hidden) {
      // what lies within the frame: the middle, as wide as it is shown
      const [cw, ch] = [Math.round(w * 0.9), Math.round(h * 0.7)];
      Object.assign(canvas, { width: cw, height: ch });
      canvas.getContext("2d").drawImage(video, (w - cw) / 2, (h - ch) / 2, cw, ch, 0, 0, cw, ch);
      const [code] = await read(canvas).catch(() => []);
      const now = performance.now();
      if (code && (code !== before || now - seen > apart)) found(code);
      if (code) { before = code; seen = now; }
    }
    if (!over) timer = setTimeout(look, pace);
  }
  look();
  const [track] = stream.getVideoTracks();
  const light = track.getCapabilities?.().torch ? (on) => track.applyConstraints({ advanced: [{ torch: on }] }) : null;
  return {
    light,
    stop() {
      over = true;
      clearTimeout(timer);
      for (const t of stream.getTracks()) t.stop();
      video.srcObject = null;
    },
  };
}
