// What is known of a stave's lanes: lines and exposures come in slices, and edits change some of them. Frames are the
// scene's; a stretch is [first, end).
import type { Clip, Exposure, Line, PackedLine, PatchedLanes, Span, Stave, StavePatch, StaveSlice } from "../types.ts";

const unpacked = (line: PackedLine): Line => ({
  ...line,
  words: line.words.map((word) => ({ ...word, sounds: word.sounds.map(([ipa, start, end, confidence]) => ({ ipa, start, end, confidence })) })),
});

// A stave of which nothing is known yet but what is always there; its clips are found by their numbers.
export function bare(document: StaveSlice, clips: ReadonlyMap<number, Clip>): Stave {
  const { first: _first, end: _end, ...rest } = document;
  return { ...rest, ...nothing(), clips: document.clips.flatMap((id) => clips.get(id) ?? []), aims: {} };
}

// Nothing that was known of the lanes holds any more.
export const forgotten = (stave: Stave): Stave => ({ ...stave, ...nothing() });
const nothing = (): Pick<Stave, "lines" | "exposures" | "checks" | "known"> => ({ lines: [], exposures: [], checks: [], known: [] });

// The stave with a slice more: its lines and exposures, and what is always there, as they are now.
export function withSlice(stave: Stave, slice: StaveSlice): Stave {
  const { lines, exposures, first, end, aims, clips: _clips, ...rest } = slice;
  const places = new Set(lines.map((line) => line.place));
  return {
    ...stave,
    ...rest,
    aims: { ...stave.aims, ...aims },
    lines: withLines(stave.lines, places, lines),
    exposures: withExposures(stave.exposures, exposures),
    known: joined([...stave.known, [first, end]]),
  };
}

// The stave after an edit that was made on it; see patch_document of the server.
export function withPatch(stave: Stave, patch: StavePatch): Stave {
  if (patch.renumbered) {
    const { renumbered: _, ...head } = patch;
    return { ...stave, ...head, lines: [], exposures: [], known: [] };
  }
  const { renumbered: _, numbers, lines, drawn: _drawn, stale, exposures, aims, ...head } = patch;
  return {
    ...stave,
    ...head,
    aims: { ...stave.aims, ...aims },
    lines: withLines(stave.lines, new Set(numbers), lines),
    exposures: withExposures(stave.exposures, exposures),
    known: stale.reduce(without, stave.known),
  };
}

// Frames on which something is other than before an edit.
export function touchedBy(patch: StavePatch, fps: number): Span[] {
  if (patch.renumbered) return [[0, patch.frames]];
  const { drawn, lines }: PatchedLanes = patch;
  return [...drawn, ...lines.map((line): Span => [Math.floor(line.start * fps), Math.ceil(line.end * fps)])];
}

function withLines(lines: Line[], places: ReadonlySet<number>, fresh: PackedLine[]): Line[] {
  if (!places.size) return lines;
  return [...lines.filter((line) => !places.has(line.place)), ...fresh.map(unpacked)].sort((a, b) => a.start - b.start || a.place - b.place);
}

// What the fresh exposures cover is theirs; of the others the rest stays.
function withExposures(exposures: Exposure[], fresh: Exposure[]): Exposure[] {
  if (!fresh.length) return exposures;
  const covered = joined(fresh.map((one) => [one.frame, one.frame + one.frames]));
  const whole = (one: Exposure): Span[] => [[one.frame, one.frame + one.frames]];
  const kept = exposures.flatMap((one) => covered.reduce(without, whole(one)).map(([first, end]) => ({ ...one, frame: first, frames: end - first })));
  return [...kept, ...fresh].sort((a, b) => a.frame - b.frame);
}

// Stretches in order, those that touch as one.
export function joined(stretches: readonly Span[]): Span[] {
  const found: Span[] = [];
  for (const [first, end] of [...stretches].sort((a, b) => a[0] - b[0])) {
    const last = found.at(-1);
    if (last && first <= last[1]) last[1] = Math.max(last[1], end);
    else if (end > first) found.push([first, end]);
  }
  return found;
}

export const without = (stretches: Span[], [from, to]: Span): Span[] =>
  stretches.flatMap(([first, end]) => ([[first, Math.min(end, from)], [Math.max(first, to), end]] as Span[]).filter(([a, b]) => b > a));

// The next stretch to ask for, no longer than so many frames: what is in view first, then what comes after it, then what
// lies before; null when all is known.
export function missing(stave: Pick<Stave, "known" | "frames">, view: Span, most: number): Span | null {
  const unknown = stave.known.reduce(without, [[0, stave.frames]] as Span[]);
  const seen = unknown.map(([first, end]): Span => [Math.max(first, view[0]), Math.min(end, view[1])]).find(([a, b]) => b > a);
  const next = seen ?? unknown.find(([first]) => first >= view[1]) ?? unknown[0];
  return next ? [next[0], Math.min(next[1], next[0] + most)] : null;
}
