// A drag with the pointer: it goes on outside the element, and Escape or the system can end it without anything done.
// done(whole, last): whole where the pointer was let go.
export function drag(element: Element, event: PointerEvent, moved: (event: PointerEvent) => void, done: (whole: boolean, last: Event) => void = () => {}): void {
  const controller = new AbortController();
  const on = { signal: controller.signal };
  const end = (whole: boolean) => (last: Event) => {
    controller.abort();
    done(whole, last);
  };
  element.setPointerCapture(event.pointerId);
  element.addEventListener("pointermove", (now) => moved(now as PointerEvent), on);
  element.addEventListener("pointerup", end(true), on);
  element.addEventListener("pointercancel", end(false), on);
  const givenUp = (key: KeyboardEvent) => {
    if (key.key !== "Escape") return;
    key.stopPropagation();
    end(false)(key);
  };
  document.addEventListener("keydown", givenUp, { ...on, capture: true });
}
