// What the panels ask of the desk.
import type { Check } from "../../lib/types.ts";
import type { Choosing } from "../choosing.ts";
import type { Doing } from "../doing.ts";
import type { Habits } from "../habits.ts";
import type { History } from "../history.ts";
import type { MouthHands } from "../mouthhands.ts";
import type { SceneNotes } from "../notes.ts";
import type { Desk } from "../state.ts";
import type { Takes } from "../takes.ts";
import type { WordHands } from "../wordhands.ts";

export interface DockPage extends Desk {
  readonly choosing: Choosing;
  readonly doing: Doing;
  readonly mouths: MouthHands;
  readonly words: WordHands;
  readonly takes: Takes;
  readonly history: History;
  readonly habits: Habits;
  readonly notes: SceneNotes;
  readonly looks: Looks;
  readonly checking: Checking;
  activate(number: number): void;
}

// What is seen and heard: of whom, and how.
export interface Looks {
  seeAll(): void;
  onionSkin(): void;
  fullScreen(): void;
  followOrNot(): void;
  solo(): void;
  curves(): void;
  zoomTo(): void;
  loopLine(): void;
}

// Going to what looks wrong, and what is done about it.
export interface Checking {
  lookAt(check: Check): void;
  cure(check?: Check | null): void;
  meanIt(check?: Check | null): void;
}

// A number that was typed, with a comma or a point; NaN where it is none.
export const typed = (text: string): number => Number.parseFloat(String(text).replace(",", "."));
export const typedWhole = (text: string): number => Number.parseInt(text, 10);
