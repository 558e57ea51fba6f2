// The bar at the top: daylight or night. Beneath it, on every page: what is said when a request of the page fails.
import "./lib/focus.js";
import { pageHeaders, sayIn, troubleOf } from "./lib/edits.js";

// What failed and is still to be done again: of each element its last request.
/** @typedef {{ sentence: string, again: () => void, asked: boolean }} Failure */
/** @type {Map<Element, Failure>} */
const failures = new Map();
/** @type {Failure | undefined} */
let shown;
const say = sayIn(document.getElementById("trouble"));

document.addEventListener("htmx:configRequest", ({ detail }) => Object.assign(detail.headers, pageHeaders()));
document.addEventListener("htmx:sendError", ({ detail }) => happened(detail, troubleOf(0, location.href)));
document.addEventListener("htmx:beforeSwap", (event) => {
  const { xhr } = event.detail;
  const sentence = troubleOf(xhr.status, xhr.responseURL);
  happened(event.detail, sentence);
  if (sentence) event.detail.shouldSwap = false;
});

// What a person asked for is said before what a page asks for by itself, and nothing else takes it away.
function happened({ elt, requestConfig }, sentence) {
  const before = failures.get(elt);
  const asked = before?.asked || Boolean(requestConfig?.triggeringEvent?.isTrusted);
  const again = () => elt.isConnected && window.htmx.trigger(elt, requestConfig?.triggeringEvent?.type ?? "click");
  failures.delete(elt);
  if (sentence) failures.set(elt, before?.sentence === sentence ? before : { sentence, again, asked });
  for (const one of failures.keys()) if (!one.isConnected) failures.delete(one);
  const all = [...failures.values()];
  const next = all.find((one) => one.asked) ?? all[0];
  if (next === shown) return;
  shown = next;
  say(next?.sentence ?? "", next?.again);
}

document.addEventListener("alpine:init", () => {
  window.Alpine.data("bar", () => ({
    theme: document.documentElement.dataset.bsTheme,
    get themeLabel() {
      return this.theme === "dark" ? "Daylight" : "Night";
    },
    switchTheme() {
      this.theme = this.theme === "dark" ? "light" : "dark";
      document.documentElement.dataset.bsTheme = this.theme;
      localStorage.setItem("theme", this.theme);
      document.dispatchEvent(new CustomEvent("theme-switched"));
    },
  }));
});
