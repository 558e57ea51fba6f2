// The focus never falls to the page: what is drawn anew under it gets it back, or else what the page is about.

const FOCUSABLE = "a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), [tabindex='0']";
const HOME = "#staves, #tracks";

type Control = HTMLElement & Partial<Pick<HTMLInputElement, "name" | "disabled">>;

// What was focused last: what it is called, and its place among the controls of what it lies in.
interface Focused {
  element: Control;
  name: string;
  places: { id: string; place: number }[];
}

let last: Focused | null = null;

// What a control is called, so that it is known again.
export const called = (element: Pick<Control, "title" | "textContent" | "name"> & { getAttribute(name: string): string | null }): string => element.getAttribute("aria-label") || element.title || element.textContent?.trim() || element.name || "";

// Of some controls the one that stands for one that is gone: of the same name, else in the same place, else the nearest.
export function standIn<C extends Parameters<typeof called>[0]>(gone: { name: string; place: number }, controls: readonly C[]): C | null {
  return controls.find((one) => called(one) === gone.name) ?? controls[Math.min(gone.place, controls.length - 1)] ?? null;
}

const usable = (element: Control) => element.isConnected && !element.disabled && !element.closest("[hidden]");
const controlsIn = (place: ParentNode) => [...place.querySelectorAll<Control>(FOCUSABLE)].filter(usable);

function remember({ target }: Event) {
  if (target === document.body || !(target instanceof HTMLElement)) return;
  const places: Focused["places"] = [];
  for (let one: Element | null | undefined = target.parentElement?.closest("[id]"); one; one = one.parentElement?.closest("[id]")) {
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
export function goHome(): void {
  document.querySelector<HTMLElement>(HOME)?.focus({ preventScroll: true });
}

// Once a page, for all of it.
export function keepFocus(): void {
  document.addEventListener("focusin", remember);
  document.addEventListener("pointerdown", () => {
    last = null;
  });
  new MutationObserver(giveBack).observe(document.documentElement, { childList: true, subtree: true, attributes: true, attributeFilter: ["disabled", "hidden"] });
}
