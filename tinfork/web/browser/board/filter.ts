// Which shots of a board are shown, and in what order: what the page's address says, and what a shot has of it.

// What is looked at of a shot.
export interface ShotRow {
  name: string;
  number: string;
  state: string;
  who: string;
  sequence: string;
  due: string;
  frames: number;
  priority: number;
  late: boolean;
}

// What is asked for, each as its field has it; "" for all.
export interface Wanted {
  q: string;
  state: string;
  who: string;
  sequence: string;
  sort: string;
}

export const NOBODY = "-";
const LATE = "late";

// What a page's address asks for.
export function wantedIn(query: string): Wanted {
  const asked = new URLSearchParams(query);
  const of = (name: string) => asked.get(name) ?? "";
  return { q: of("q"), state: of("state"), who: of("who"), sequence: of("sequence"), sort: of("sort") };
}

// Whether a shot is shown. Every word that is looked for is in its name, number, sequence or whose it is.
export function isShown(shot: ShotRow, wanted: Wanted): boolean {
  const text = `${shot.name} ${shot.number} ${shot.who} ${shot.sequence}`.toLowerCase();
  return (
    wanted.q.toLowerCase().split(/\s+/).every((word) => text.includes(word)) &&
    (!wanted.state || (wanted.state === LATE ? shot.late : shot.state === wanted.state)) &&
    (!wanted.who || shot.who === (wanted.who === NOBODY ? "" : wanted.who)) &&
    (!wanted.sequence || shot.sequence === wanted.sequence)
  );
}

const byText = (one: string, other: string): number => one.localeCompare(other, undefined, { numeric: true });
// What has none comes last.
const byFilled = (one: string, other: string): number => Number(!one) - Number(!other) || byText(one, other);

// How two shots lie to one another in the order that is asked for; equal ones stay as they lie in the film. states:
// their order.
export function order(sort: string, states: readonly string[]): (one: ShotRow, other: ShotRow) => number {
  const ways: Record<string, (one: ShotRow, other: ShotRow) => number> = {
    number: (one, other) => byFilled(one.number, other.number),
    name: (one, other) => byText(one.name, other.name),
    state: (one, other) => states.indexOf(one.state) - states.indexOf(other.state),
    due: (one, other) => byFilled(one.due, other.due),
    priority: (one, other) => other.priority - one.priority,
    frames: (one, other) => other.frames - one.frames,
    who: (one, other) => byFilled(one.who, other.who),
  };
  return ways[sort] ?? (() => 0);
}
