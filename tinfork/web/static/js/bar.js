// The bar at the top: daylight or night. Beneath it, on every page: what is said when a request of the page fails.
import "./lib/focus.js";
import { pageHeaders, sayIn, troubleOf } from "./lib/edits.js";

/** @type {Element | null} */
let failed = null;
const say = sayIn(document.getElementById("trouble"));

document.addEventListener("htmx:configRequest", ({ detail }) => Object.assign(detail.headers, pageHeaders()));
document.addEventListener("htmx:sendError", ({ detail }) => {
  failed = detail.elt;
  say(troubleOf(0, location.href), again(detail));
});
document.addEventListener("htmx:beforeSwap", (event) => {
  const { xhr, elt } = event.detail;
  const trouble = troubleOf(xhr.status, xhr.responseURL);
  // What else is asked for meanwhile takes nothing away that is still to be read.
  if (!trouble && failed?.isConnected && failed !== elt) return;
  failed = trouble ? elt : null;
  say(trouble, trouble ? again(event.detail) : undefined);
  if (trouble) event.detail.shouldSwap = false;
});

// The same request of the same element once more.
function again({ elt, requestConfig }) {
  return () => elt.isConnected && window.htmx.trigger(elt, requestConfig?.triggeringEvent?.type ?? "click");
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
