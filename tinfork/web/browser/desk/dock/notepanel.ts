// The notes that were written of the scene in its rushes.
import { panel } from "../../lib/page.ts";
import { answersTo, type Note, threads } from "../../lib/review.ts";
import type { DockPage } from "./page.ts";

interface NoteRow extends Note {
  at: string;
  answers: { id: number; text: string }[];
  doing: string;
  faded: string;
}

export const notePanel = ({ notes }: DockPage) =>
  panel({
    noteCount: 0,
    notes: [] as NoteRow[],

    goToNote: (note: NoteRow) => notes.go(note),
    noteDone: (note: NoteRow) => notes.done(note),
  });

export function noteNow({ notes: { all }, state }: DockPage) {
  const rows = threads(all).map((note): NoteRow => {
    const answers = answersTo(all, note.id).map(({ id, who, text }) => ({ id, text: `${who}: ${text}` }));
    return { ...note, answers, at: String(note.frame + state.startFrame), doing: note.done ? "Not done" : "Done", faded: note.done ? "faded" : "" };
  });
  return { notes: rows, noteCount: rows.filter((note) => !note.done).length };
}
