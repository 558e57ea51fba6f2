// The bar at the top: daylight or night. Beneath it, on every page: what is said when a request of the page fails.
import "./lib/focus.js";
import { aWhile, pageHeaders, sayIn, troubleOf } from "./lib/edits.js";

/** @type {Element | null} */
let failed = null;
const say = sayIn(document.getElementById("trouble"));
const GONE = 404;

document.addEventListener("htmx:configRequest", ({ detail }) => Object.assign(detail.headers, pageHeaders()));
document.addEventListener("htmx:sendError", ({ detail }) => tell(detail, troubleOf(0, location.href)));
document.addEventListener("htmx:beforeSwap", ({ detail }) => {
  const trouble = troubleOf(detail.xhr.status, detail.xhr.responseURL);
  if (trouble) {
    detail.shouldSwap = false;
    tell(detail, trouble);
  } else if (failed && (failed === detail.elt || !failed.isConnected)) {
    failed = null;
    say("");
  }
});

// What a person asked for is said, and can be done again. What the page asks for by itself is asked for again, and says
// nothing: it would take the place of what a person has yet to do again.
function tell(detail, trouble) {
  if (!detail.elt.matches("[data-by-itself]")) {
    failed = detail.elt;
    say(trouble, () => again(detail));
  } else if (detail.xhr.status !== GONE) aWhile().then(() => again(detail));
}

// The same request of the same element once more.
function again({ elt, target, requestConfig: { verb, path, triggeringEvent } }) {
  if (elt.isConnected) window.htmx.ajax(verb, path, { source: elt, target, event: triggeringEvent });
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
