// A drag with the pointer: it goes on outside the element, and Escape or the system can end it without anything done.
export function drag(element, event, moved, done) {
  const controller = new AbortController();
  const on = { signal: controller.signal };
  const end = (given) => (last) => {
    controller.abort();
    done(given, last);
  };
  element.setPointerCapture(event.pointerId);
  element.addEventListener("pointermove", moved, on);
  element.addEventListener("pointerup", end(true), on);
  element.addEventListener("pointercancel", end(false), on);
  document.addEventListener("keydown", (key) => {
    if (key.key !== "Escape") return;
    key.stopPropagation();
    end(false)(key);
  }, { ...on, capture: true });
}
