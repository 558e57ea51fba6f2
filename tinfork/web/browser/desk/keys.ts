// The keys of the desk.
import type { DockPage } from "./dock/page.ts";
import { nothingChosen } from "./state.ts";

export function keysOf(page: DockPage, { nextCheck, toggleTake }: { nextCheck(step: number): void; toggleTake(): void }): (event: KeyboardEvent) => boolean {
  const { state, given, mouths, words, doing, transport, looks, checking, notes } = page;
  const step = (event: KeyboardEvent) => (event.shiftKey ? -1 : 1);

  const keys: Record<string, (event: KeyboardEvent) => void> = {
    c: (event) => nextCheck(step(event)),
    f: (event) => (event.shiftKey ? checking.meanIt() : checking.cure()),
    a: toggleTake,
    u: looks.onionSkin,
    k: () => looks.curves(),
    z: looks.zoomTo,
    d: (event) => words.nextDoubt(step(event)),
    v: (event) => notes.next(step(event)),
    w: () => words.here(),
    // One thing after the other: what waits for a drawing, what is chosen, in and out.
    escape: () => {
      if (state.filling) state.filling = false;
      else if (state.chosen.length || state.word) Object.assign(state, nothingChosen());
      else transport.unmark();
      page.showSelection();
      transport.show();
    },
    g: () => doing.fill(),
  };

  // With Alt arrows choose a neighbour of the drawing, or move the word.
  function withAlt(event: KeyboardEvent): void {
    if (state.chosen.length || !words.chosen) doing.neighbour(event.key);
    else if (given.mayEdit && /Left|Right/.test(event.key)) words.moveByKey(event);
  }

  // What a key does; whether it does anything.
  return (event) => {
    const control = event.ctrlKey || event.metaKey;
    const plain = !control && !event.altKey;
    const own = plain ? keys[event.key.toLowerCase()] : undefined;
    if (mouths.claims(event)) return mouths.key(event);
    if (event.key === " " && event.shiftKey) transport.toggle(true);
    else if (event.altKey && event.key.startsWith("Arrow")) withAlt(event);
    else if (control && event.key.toLowerCase() === "z") page.edit(event.shiftKey ? "redo" : "undo");
    else if (own) own(event);
    else return (plain && words.key(event)) || mouths.key(event) || transport.key(event);
    return true;
  };
}
