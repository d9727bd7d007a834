// Writes amounts. They come from the server as decimals in texts and are shown digit
// for digit: nothing is computed here.
const { symbol, places } = document.documentElement.dataset;

/** An amount with the decimals of the shop's currency and marks between thousands. */
export function figure(text) {
  const [, sign, whole, , decimals = ""] = /^(-?)(\d+)(\.(\d*))?$/.exec(String(text)) || [];
  if (whole === undefined) return String(text);
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, ",");
  const tail = decimals.padEnd(Number(places), "0");
  return sign + grouped + (tail ? "." + tail : "");
}

/** An amount as it is typed: its decimals, without marks. */
export const typed = (text) => figure(text).replaceAll(",", "");

/** An amount with the symbol of the shop's currency. */
export const money = (text) => (String(text).startsWith("-") ? "-" : "") + symbol + figure(text).replace("-", "");

/** A quantity without the zeros at its end. */
export const units = (text) => (String(text).includes(".") ? String(text).replace(/\.?0+$/, "") : String(text));

/** So many of a thing: "1 line", "3 lines". */
export const plural = (n, one, many) => `${n} ${String(n) === "1" ? one : many}`;
