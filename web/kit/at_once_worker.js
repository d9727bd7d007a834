// Makes the requests of one page, and says their answers on the channel that is called as it is.
const channel = new BroadcastChannel(self.name);

self.addEventListener("message", async ({ data: { id, path, options, there } }) => {
  if (there) {
    channel.postMessage({ here: true });
    return;
  }
  let answer = null;
  try {
    const response = await fetch(path, options);
    answer = { status: response.status, type: response.headers.get("Content-Type") || "", text: await response.text() };
  } catch { /* it was lost, which the page is told */ }
  channel.postMessage({ id, answer });
});
