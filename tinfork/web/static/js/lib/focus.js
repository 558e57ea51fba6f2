// The focus never falls to the page: what is drawn anew under it gets it back, or else what the page is about.

const FOCUSABLE = "a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), [tabindex='0']";
const HOME = "#staves, #tracks";
let last = null;

// What a control is called, so that it is known again.
export const called = (element) => element.getAttribute("aria-label") || element.title || element.textContent?.trim() || element.name || "";

/** Of some controls the one that stands for one that is gone: of the same name, else in the same place, else the nearest.
 * @param {{name: string, place: number}} gone */
export function standIn(gone, controls) {
  return controls.find((one) => called(one) === gone.name) ?? controls[Math.min(gone.place, controls.length - 1)] ?? null;
}

const usable = (element) => element.isConnected && !element.disabled && !element.closest("[hidden]");
const controlsIn = (place) => [...place.querySelectorAll(FOCUSABLE)].filter(usable);

function remember({ target }) {
  if (target === document.body || !target.closest) return;
  const places = [];
  for (let one = target.parentElement?.closest("[id]"); one; one = one.parentElement?.closest("[id]")) {
    places.push({ id: one.id, place: controlsIn(one).indexOf(target) });
  }
  last = { element: target, name: called(target), places };
}

function giveBack() {
  if (!last || (document.activeElement && document.activeElement !== document.body)) return;
  if (usable(last.element)) return;
  for (const { id, place } of last.places) {
    const container = document.getElementById(id);
    const found = container && standIn({ name: last.name, place }, controlsIn(container));
    if (found) return found.focus({ preventScroll: true });
  }
  goHome();
}

// To what the page is about: its canvas.
export function goHome() {
  /** @type {HTMLElement} */ (document.querySelector(HOME))?.focus({ preventScroll: true });
}

if (typeof document !== "undefined") {
  document.addEventListener("focusin", remember);
  document.addEventListener("pointerdown", () => {
    last = null;
  });
  new MutationObserver(giveBack).observe(document.documentElement, { childList: true, subtree: true, attributes: true, attributeFilter: ["disabled", "hidden"] });
}
