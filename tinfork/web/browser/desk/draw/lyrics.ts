// The words and their sounds, as they are written under notes.
import { type Ink, PHONETIC, TEXT } from "../../lib/time/canvas.ts";
import type { Drawing } from "../../lib/time/ruler.ts";
import type { Stave, Word } from "../../lib/types.ts";
import { type ChosenWord, type DeskState, sameWord } from "../state.ts";
import { DOUBTFUL, edgesOf, isSet, saidOtherwise } from "../words.ts";
import { whole, widthOf } from "./labels.ts";
import { CROWDED, IPA, LINE, SMALL, WORDS } from "./layout.ts";

export function lyrics({ context, ink, x, view, width }: Drawing<DeskState>, stave: Stave, top: number, fps: number): void {
  const time = { start: view.left / fps, end: (view.left + width / view.perFrame) / fps };
  const active = view.staves[view.active] === stave;
  const crowded = view.perFrame <= CROWDED;
  const columns = new Set<number>(); // words that are too narrow to be written: where each begins
  for (const line of stave.lines) {
    if (line.end < time.start || line.start > time.end) continue;
    slur(context, x(line.start * fps), x(line.end * fps), top + 9, ink["tin-deep"]);
    const otherwise = saidOtherwise(stave, line);
    for (const word of line.words) {
      for (const [start, end] of word.extra) unwritten(context, ink, x(start * fps), x(end * fps), top);
      if (word.end < time.start || word.start > time.end) continue;
      const chosen = active && sameWord(word, view.word) ? view.word : null;
      if (crowded && word.said && !chosen) columns.add(Math.round(x(word.start * fps)));
      else if (word.said) oneWord({ context, ink, x }, word, fps, top, chosen, otherwise.has(word));
      else unsaid(context, ink, word, x(word.start * fps), top, chosen);
    }
  }
  context.fillStyle = ink["tin-deep"];
  for (const column of columns) context.fillRect(column, top + 12, 1, WORDS + IPA - 14);
}

// Speech that was heard and is not written: a hatched stretch.
function unwritten(context: CanvasRenderingContext2D, ink: Ink, left: number, right: number, top: number) {
  context.save();
  context.beginPath();
  context.rect(left, top + LINE, right - left, WORDS - LINE);
  context.clip();
  context.strokeStyle = ink.beet;
  context.lineWidth = 1;
  context.beginPath();
  for (let x = left - WORDS; x < right; x += 6) {
    context.moveTo(x, top + WORDS);
    context.lineTo(x + WORDS - LINE, top + LINE);
  }
  context.stroke();
  context.restore();
}

// A word that was written and not heard: struck through, above where it would stand.
function unsaid(context: CanvasRenderingContext2D, ink: Ink, word: Word, left: number, top: number, chosen: ChosenWord | null) {
  context.font = `12px ${TEXT}`;
  const wide = widthOf(context, word.text);
  context.fillStyle = chosen ? ink["verdigris-pale"] : ink.paper;
  context.fillRect(left - 2, top - 4, wide + 8, 15);
  context.fillStyle = ink.beet;
  context.fillText(word.text, left + 2, top + 7);
  context.fillRect(left, top + 3, wide + 4, 1);
  context.fillRect(Math.round(left), top + 3, 1, WORDS - 6);
}

function slur(context: CanvasRenderingContext2D, left: number, right: number, y: number, stroke: string) {
  context.strokeStyle = stroke;
  context.lineWidth = 1;
  context.beginPath();
  context.moveTo(left, y);
  context.bezierCurveTo(left + 12, y - 9, right - 12, y - 9, right, y);
  context.stroke();
}

function oneWord({ context, ink, x }: Pick<Drawing<DeskState>, "context" | "ink" | "x">, word: Word, fps: number, top: number, chosen: ChosenWord | null, otherwise: boolean) {
  const left = x(word.start * fps);
  const right = x(word.end * fps);
  if (right - left < SMALL && !chosen) return context.fillRect(Math.round(left), top + 12, 1, WORDS + IPA - 14);
  if (chosen) {
    context.fillStyle = ink["verdigris-pale"];
    context.fillRect(left, top + LINE, right - left, WORDS + IPA - LINE);
    const sound = word.sounds[chosen.sound];
    context.strokeStyle = ink.copper;
    context.lineWidth = 2;
    if (sound) context.strokeRect(x(sound.start * fps) + 1, top + WORDS - 1, (sound.end - sound.start) * fps * (x(1) - x(0)) - 2, IPA);
  }
  context.fillStyle = ink.ink;
  context.font = `14px ${TEXT}`;
  whole(context, word.guessed ? `${word.text} ?` : word.text, left + 3, top + 25, right - left - 4);
  context.fillStyle = ink["tin-deep"];
  context.fillRect(Math.round(left), top + 12, 1, WORDS + IPA - 14);
  if (otherwise || (word.confidence < DOUBTFUL && !isSet(word))) wavy(context, left + 2, right - 2, top + 30, ink.beet);
  context.font = `12px ${PHONETIC}`;
  for (const sound of word.sounds) {
    const from = x(sound.start * fps);
    const to = x(sound.end * fps);
    context.fillStyle = ink.tin;
    context.fillRect(Math.round(from), top + WORDS + 2, 1, IPA - 4);
    context.fillStyle = sound.confidence < DOUBTFUL && !isSet(word) ? ink.beet : ink.ink;
    whole(context, sound.ipa, from + 2, top + WORDS + 13, to - from - 2);
  }
  const edges = edgesOf(word);
  for (const k of word.pinned) smallTack(context, ink, x(edges[k] * fps), k > 0 && k < word.sounds.length ? top + WORDS - 1 : top + LINE - 1);
  if (word.decided && !word.pinned.length) smallTack(context, ink, (left + right) / 2, top + LINE - 1);
}

function smallTack(context: CanvasRenderingContext2D, ink: Ink, x: number, y: number) {
  context.fillStyle = ink.beet;
  context.beginPath();
  context.arc(x + 0.5, y + 2, 2.8, 0, Math.PI * 2);
  context.fill();
  context.fillRect(Math.round(x), y + 4, 1.2, 6);
}

function wavy(context: CanvasRenderingContext2D, left: number, right: number, y: number, stroke: string) {
  context.strokeStyle = stroke;
  context.lineWidth = 1.2;
  context.beginPath();
  context.moveTo(left, y);
  for (let x = left; x <= right; x += 1.5) context.lineTo(x, y + Math.sin((x - left) * 0.9) * 1.6);
  context.stroke();
}
