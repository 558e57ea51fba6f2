// How somebody laid out a page stays on this browser: what is folded, and how high things were pulled.

const KEY = (name: string) => `tinfork layout ${name}`;

// The page of a view that a person opened last, where it is one of those known; else the usual one.
export function keptTab<T extends string>(view: string, usual: T, known: readonly T[]): T {
  const kept = localStorage.getItem(KEY(`${view} tab`));
  return known.find((one) => one === kept) ?? usual;
}

export const keepTab = (view: string, tab: string): void => localStorage.setItem(KEY(`${view} tab`), tab);

// details with data-kept stay open or folded; others with it stay as high as they were pulled.
export function keepLayout(room: ParentNode): void {
  for (const place of room.querySelectorAll<HTMLElement>("[data-kept]")) {
    const key = KEY(place.dataset.kept ?? "");
    if (place instanceof HTMLDetailsElement) keepFold(place, key);
    else keepHeight(place, key);
  }
}

function keepFold(place: HTMLDetailsElement, key: string): void {
  const kept = localStorage.getItem(key);
  if (kept) place.open = kept === "open";
  place.addEventListener("toggle", () => localStorage.setItem(key, place.open ? "open" : "folded"));
}

// Pulled by its corner, it has a height of its own.
function keepHeight(place: HTMLElement, key: string): void {
  const kept = localStorage.getItem(key);
  if (kept) place.style.height = kept;
  place.addEventListener("pointerup", () => {
    if (place.style.height) localStorage.setItem(key, place.style.height);
  });
}
