// What is known of a stave's lanes: lines and exposures come in slices, and edits change some of them. Frames are the
// scene's; a stretch is [first, end).

const sound = ([ipa, start, end, confidence]) => ({ ipa, start, end, confidence });
const unpacked = (line) => ({ ...line, words: line.words.map((word) => ({ ...word, sounds: word.sounds.map(sound) })) });

// A stave of which nothing is known yet but what is always there.
export function bare(document) {
  const { lines, exposures, first, end, ...rest } = document;
  return { ...rest, lines: [], exposures: [], checks: [], known: [] };
}

// The stave with a slice more: its lines and exposures, and what is always there, as they are now.
export function withSlice(stave, slice) {
  const { lines, exposures, first, end, aims, ...rest } = slice;
  const places = new Set(lines.map((line) => line.place));
  return {
    ...stave,
    ...rest,
    clips: stave.clips,
    aims: { ...stave.aims, ...aims },
    lines: withLines(stave.lines, places, lines),
    exposures: withExposures(stave.exposures, exposures),
    known: joined([...stave.known, [first, end]]),
  };
}

// The stave after an edit that was made on it; see patch_document of the server.
export function withPatch(stave, patch) {
  const { renumbered, numbers, lines, drawn, stale, exposures, aims, ...rest } = patch;
  if (renumbered) return { ...stave, ...rest, lines: [], exposures: [], known: [] };
  return {
    ...stave,
    ...rest,
    aims: { ...stave.aims, ...aims },
    lines: withLines(stave.lines, new Set(numbers), lines),
    exposures: withExposures(stave.exposures, exposures),
    known: stale.reduce(without, stave.known),
  };
}

function withLines(lines, places, fresh) {
  if (!places.size) return lines;
  return [...lines.filter((line) => !places.has(line.place)), ...fresh.map(unpacked)].sort((a, b) => a.start - b.start || a.place - b.place);
}

// What the fresh exposures cover is theirs; of the others the rest stays.
function withExposures(exposures, fresh) {
  if (!fresh.length) return exposures;
  const covered = joined(fresh.map((one) => [one.frame, one.frame + one.frames]));
  const kept = exposures.flatMap((one) =>
    covered.reduce(without, [[one.frame, one.frame + one.frames]]).map(([first, end]) => ({ ...one, frame: first, frames: end - first })),
  );
  return [...kept, ...fresh].sort((a, b) => a.frame - b.frame);
}

// Stretches in order, those that touch as one.
export function joined(stretches) {
  const found = [];
  for (const [first, end] of [...stretches].sort((a, b) => a[0] - b[0])) {
    const last = found.at(-1);
    if (last && first <= last[1]) last[1] = Math.max(last[1], end);
    else if (end > first) found.push([first, end]);
  }
  return found;
}

export const without = (stretches, [from, to]) =>
  stretches.flatMap(([first, end]) => [[first, Math.min(end, from)], [Math.max(first, to), end]].filter(([a, b]) => b > a));

/** The next stretch to ask for, no longer than so many frames: what is in view first, then what comes after it, then what
 * lies before; null when all is known.
 * @returns {[number, number] | null} */
export function missing(stave, view, most) {
  const unknown = stave.known.reduce(without, [[0, stave.frames]]);
  const seen = unknown.map(([first, end]) => [Math.max(first, view[0]), Math.min(end, view[1])]).find(([a, b]) => b > a);
  const next = seen ?? unknown.find(([first]) => first >= view[1]) ?? unknown[0];
  return next ? [next[0], Math.min(next[1], next[0] + most)] : null;
}
