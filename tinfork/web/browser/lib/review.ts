// What a page knows of a shot's review: its versions with what was said of them, and its notes. It knows no elements.

export interface Said {
  kind: "approved" | "changes";
  who: string;
  when: string;
}

export interface Version {
  number: number;
  who: string;
  when: string;
  said: Said[];
}

// A note on frames, or the answer to one (on: its number). place: on the picture, as shares of its width and height.
export interface Note {
  id: number;
  on: number;
  who: string;
  own: boolean;
  text: string;
  frame: number;
  end: number;
  place: [number, number] | null;
  line: [number, number][];
  version: number;
  done: boolean;
  when: string;
}

export interface ReviewDocument {
  versions: Version[];
  changed: boolean;
  notes: Note[];
  mayComment: boolean;
  mayFinish: boolean;
  mayApprove: boolean;
  mayEdit: boolean;
}

// A stretch of frames on which something else is seen than in a version.
export interface Changed {
  who: string;
  frame: number;
  end: number;
  was: string;
  now: string;
}

// Notes that are no answers, those that are not done first, each part by frame.
export function threads(notes: readonly Note[]): Note[] {
  return notes.filter((note) => !note.on).toSorted((one, other) => Number(one.done) - Number(other.done) || one.frame - other.frame || one.id - other.id);
}

export const answersTo = (notes: readonly Note[], id: number): Note[] => notes.filter((note) => note.on === id).toSorted((one, other) => one.id - other.id);

// The notes that are seen on a frame.
export const notesOn = (notes: readonly Note[], frame: number): Note[] => notes.filter((note) => !note.on && !note.done && note.frame <= frame && frame <= note.end);

// The next note that is not done, after a frame (step 1) or before it (-1), round the end; null where there is none.
export function nextNote(notes: readonly Note[], frame: number, step: 1 | -1): Note | null {
  const open = notes.filter((note) => !note.on && !note.done).toSorted((one, other) => one.frame - other.frame || one.id - other.id);
  const found = step > 0 ? open.find((note) => note.frame > frame) : open.findLast((note) => note.frame < frame);
  return found ?? (step > 0 ? open[0] : open.at(-1)) ?? null;
}

// How a review stands, in a sentence.
export function standing({ versions, changed }: Pick<ReviewDocument, "versions" | "changed">): string {
  const [newest] = versions;
  if (!newest) return "Not shown for review yet.";
  const [said] = newest.said;
  const since = changed ? " It has changed since." : "";
  if (!said) return `Version ${newest.number} is to be looked at.${since}`;
  return said.kind === "approved" ? `Version ${newest.number} was approved by ${said.who}.${since}` : `${said.who} wants changes to version ${newest.number}.${since}`;
}
