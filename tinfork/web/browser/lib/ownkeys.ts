// Keys of one's own: what is pressed becomes the key that usually does it, before any view hears of it.

// Each by the key it usually has.
export type OwnKeys = Record<string, string>;

type Pressed = Pick<KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "altKey" | "shiftKey">;

const NAMES: Record<string, string> = { " ": "Space", ArrowLeft: "Left", ArrowRight: "Right", ArrowUp: "Up", ArrowDown: "Down" };
const KEYS = Object.fromEntries(Object.entries(NAMES).map(([key, name]) => [name, key]));
// These keep their meaning everywhere, and the browser takes the last for itself.
const FIXED = /^(Shift\+)?(Tab|Enter|Escape|\?|[1-9])$|^Ctrl\+(Shift\+)?[NTWQ]$|^(Control|Shift|Alt|Meta|AltGraph|CapsLock|Dead|Process|Unidentified|F\d+)$/;

// A key as the window of keys writes it: "S", "Shift+S", "Ctrl+Left", "[".
export function keyOf({ key, ctrlKey, metaKey, altKey, shiftKey }: Pressed): string {
  const letter = key.length === 1 ? key.toUpperCase() : key;
  const name = NAMES[key] ?? letter;
  // Signs have Shift in them already.
  const shifted = shiftKey && (name.length > 1 || letter !== letter.toLowerCase());
  return `${ctrlKey || metaKey ? "Ctrl+" : ""}${altKey ? "Alt+" : ""}${shifted ? "Shift+" : ""}${name}`;
}

// Whether a key can be given to something else.
export const canBeGiven = (name: string): boolean => !FIXED.test(name) && !FIXED.test(name.split("+").at(-1) || "+");

// The key that usually does what a key does now; null where it does nothing any more.
export function usualOf(own: OwnKeys, name: string): string | null {
  const usual = Object.keys(own).find((one) => own[one] === name);
  return usual ?? (name in own ? null : name);
}

// What an event says when a key is pressed.
export function pressedAs(name: string): Pressed {
  const parts = name === "+" || name.endsWith("++") ? [...name.slice(0, -1).split("+").filter(Boolean), "+"] : name.split("+");
  const last = parts.pop() ?? "";
  const shiftKey = parts.includes("Shift");
  const key = KEYS[last] ?? (last.length === 1 && !shiftKey ? last.toLowerCase() : last);
  return { key, shiftKey, ctrlKey: parts.includes("Ctrl"), altKey: parts.includes("Alt"), metaKey: false };
}

// Have an event say that the key was pressed which usually does what this one does now.
export function asUsual(own: OwnKeys, event: KeyboardEvent): void {
  const name = keyOf(event);
  const usual = usualOf(own, name);
  if (usual === name) return;
  const now = usual === null ? { ...pressedAs(name), key: "Unidentified" } : pressedAs(usual);
  for (const [property, value] of Object.entries(now)) Object.defineProperty(event, property, { value });
}
