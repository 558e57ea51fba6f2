// What others do while a board is open: it is drawn anew, and shows who is in which shot.
import { element, inside } from "../lib/page.ts";
import { onTold, type Present, settled } from "../lib/told.ts";

// A thousand shots are a third of a second of work: not each change is worth that at once.
const ANEW_MS = 3000;

let present: readonly Present[] = [];

// Say in the row of a shot who is in it.
export function showPresent(row: HTMLElement, id: number): void {
  const here = present.filter(({ scene }) => scene === id);
  const place = inside(row, ".shot-who");
  place.querySelector(".here")?.remove();
  if (!here.length) return;
  const title = here.map(({ name, doing }) => `${name} is in it${doing ? `: ${doing}` : ""}`).join("\n");
  place.append(element("b", { className: "here bar-present", textContent: here.map(({ name }) => name).join(", "), title }));
}

// anew: ask for the board and draw it; rows: those that are drawn, by the number of their shot.
export function watchBoard(anew: () => Promise<unknown>, rows: ReadonlyMap<number, HTMLElement>): void {
  const ask = settled(ANEW_MS, anew);
  let connected = false;
  onTold(["board", "edit", "review"], ({ kind }) => {
    // The page is as new as the connection when that is made for the first time.
    if (kind === "again" && !connected) connected = true;
    else ask();
  });
  onTold(["present"], ({ who }) => {
    if (!who) return;
    present = who;
    for (const [id, row] of rows) showPresent(row, id);
  });
}
