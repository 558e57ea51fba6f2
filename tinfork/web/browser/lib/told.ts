// What others change, as the server tells it: the bar holds the one connection of a page, and its views hear of it here.

export interface Present {
  person: number;
  name: string;
  scene: number;
  view: string;
  doing: string;
}

// kind "edit": a document of the scene has a version (area, version); "review", "board", "present" (who), "notice"; "again":
// something may have been missed, so all of it may be another now.
export interface Told {
  kind: string;
  scene?: number;
  area?: string;
  version?: number;
  who?: Present[];
}

const NAME = "told";

export const tell = (told: Told): boolean => document.dispatchEvent(new CustomEvent(NAME, { detail: told }));

// Hear of some kinds of changes, and of everything that may have been missed.
export function onTold(kinds: readonly string[], work: (told: Told) => unknown): void {
  document.addEventListener(NAME, (event) => {
    const told = (event as CustomEvent<Told>).detail;
    if (told.kind === "again" || kinds.includes(told.kind)) work(told);
  });
}

// A function that does some work a little after it is called, once however often it is called meanwhile, and never
// oftener than that; what is asked for while it is done is done after it.
export function settled(ms: number, work: () => Promise<unknown>): () => void {
  let [waiting, doing, more] = [false, false, false];
  const turn = async () => {
    waiting = false;
    doing = true;
    await work().catch((failed: unknown) => console.debug(failed));
    doing = false;
    if (more) begin();
    more = false;
  };
  const begin = () => {
    if (waiting) return;
    if (doing) {
      more = true;
      return;
    }
    waiting = true;
    setTimeout(turn, ms);
  };
  return begin;
}
