// Drawing time: the frame ruler, then for each character a waveform, the words, the sounds in IPA and the ribbon.
import { easeOn } from "../lib/easing.js";
import { colour, fit } from "../lib/peaks.js";
import { toLookAt } from "./companions.js";
import { clipWave, MONO, RULER, ruler } from "../lib/ruler.js";
import { placeAt } from "./selection.js";

const NAME = 18;
const LEAST_WAVE = 54;
const MOST_WAVE = 240;
const WORDS = 34;
const IPA = 18;
const RIBBON = 62;
const LABELS = 16;
const BESIDE_WAVE = NAME + WORDS + IPA + RIBBON + LABELS + 10;
const LINE = 12;
const LEAST_ROOM = 5; // pixels that any label needs; asking how wide a text is takes its time
const SMALL = 3; // what is no wider is drawn plainly
const CROWDED = 0.5; // pixels of a frame; where it has no more, exposures share pixels and are drawn together
const FOLDED = 34;
export const DOUBTFUL = 0.7;
const NEAR = 5;
const MOST_WIDTHS = 5000;
const SMALLEST = 0.75; // how far a label may shrink
const TEXT = '"Atkinson Hyperlegible Next", sans-serif';
const PHONETIC = '"Noto Sans", sans-serif';

// view: {rate, startFrame, left (frames), perFrame (pixels), frame, staves, active, selected, peaks}
export function drawStaves(canvas, view) {
  const folded = view.staves.filter((stave) => view.folded.has(stave.id)).length;
  view.wave = waveHeight(canvas.parentElement.clientHeight - folded * FOLDED, view.staves.length - folded);
  const tops = topsOf(view);
  const { context, width, height } = fit(canvas, tops.at(-1) + 8);
  if (canvas.style.height !== `${height}px`) canvas.style.height = `${height}px`;
  const ink = Object.fromEntries(
    ["paper", "sheet", "ink", "tin", "tin-deep", "copper", "verdigris", "verdigris-pale", "beet"].map((n) => [n, colour(n)]),
  );
  const draw = { context, width, height, ink, view, x: (frame) => (frame - view.left) * view.perFrame };
  ruler(draw);
  view.staves.forEach((stave, i) => (view.folded.has(stave.id) ? drawFolded : drawStave)(draw, stave, tops[i], i));
  playhead(draw);
  if (view.drag?.times) dragged(draw);
  // Where things lie, for whoever cannot see the picture.
  const words = tops[view.active] + NAME + view.wave;
  Object.assign(canvas.dataset, { left: view.left, perFrame: view.perFrame, line: words + 6, words: words + 22, sounds: words + WORDS + 9, ribbon: words + WORDS + IPA + 30 });
}

// Where what is being dragged would go: its edges, and by how many frames it moves.
function dragged({ context, ink, view, x }) {
  const fps = view.rate.numerator / view.rate.denominator;
  const top = topsOf(view)[view.active] + NAME + view.wave;
  context.strokeStyle = ink.copper;
  context.lineWidth = 2;
  context.setLineDash([4, 3]);
  context.beginPath();
  for (const time of view.drag.times) {
    context.moveTo(x(time * fps), top);
    context.lineTo(x(time * fps), top + WORDS + IPA);
  }
  context.stroke();
  context.setLineDash([]);
  context.font = `11px ${MONO}`;
  context.fillStyle = ink.copper;
  const by = view.drag.by * fps;
  context.fillText(`${by < 0 ? "−" : "+"}${Math.abs(by).toFixed(1)}`, x(view.drag.times[0] * fps) + 4, top + 10);
}

// Waveforms share the room that words and ribbons leave.
function waveHeight(room, staves) {
  const share = (room - RULER - 8) / Math.max(1, staves) - BESIDE_WAVE;
  return Math.round(Math.min(MOST_WAVE, Math.max(LEAST_WAVE, share)));
}

const staveHeight = (view) => BESIDE_WAVE + view.wave;

// Where each stave begins, and where the last one ends.
function topsOf(view) {
  const tops = [RULER];
  for (const stave of view.staves) tops.push(tops.at(-1) + (view.folded.has(stave.id) ? FOLDED : staveHeight(view)));
  return tops;
}

// The exposures that are seen in so many pixels.
function* inView(exposures, view, width) {
  const end = view.left + width / view.perFrame;
  for (let i = Math.max(0, placeAt(exposures, Math.max(0, Math.floor(view.left)))); i < exposures.length && exposures[i].frame <= end; i += 1) yield exposures[i];
}

// A folded stave: its name, and its mouths as a thin ribbon.
function drawFolded(draw, stave, top, number) {
  const { context, width, ink, view, x } = draw;
  context.font = `600 12px ${TEXT}`;
  context.fillStyle = number === view.active ? ink.ink : ink["tin-deep"];
  context.fillText(`▸ ${stave.character}`, 8, top + 13);
  const drawings = new Map(stave.chart.drawings.map((d) => [d.name, d]));
  for (const { frame, frames, drawing } of inView(stave.exposures, view, width)) {
    const half = 0.5 + (drawings.get(drawing)?.jaw ?? 0) * 8;
    context.fillStyle = ink.verdigris;
    context.fillRect(x(frame), top + FOLDED - 11 - half, frames * view.perFrame - 0.5, 2 * half);
  }
  context.fillStyle = ink.tin;
  context.fillRect(0, top + FOLDED - 1, width, 1);
}

function drawStave(draw, stave, top, number) {
  const { context, width, ink, view } = draw;
  const fps = view.rate.numerator / view.rate.denominator;
  const time = { start: view.left / fps, end: (view.left + width / view.perFrame) / fps };
  context.font = `600 12px ${TEXT}`;
  context.fillStyle = number === view.active ? ink.ink : ink["tin-deep"];
  context.fillText(`▾ ${stave.character}`, 8, top + 13);
  waves(draw, stave, { y: top + NAME, height: view.wave }, fps);
  context.fillStyle = ink.tin;
  context.fillRect(0, top + staveHeight(view) - 1, width, 1);
  if (!stave.read) {
    context.fillStyle = ink["tin-deep"];
    context.font = `13px ${TEXT}`;
    context.fillText("Not read yet. Press Read under Script, or put words and mouths here by hand.", 12, top + NAME + view.wave + 30);
  } else lyrics(draw, stave, top + NAME + view.wave, fps, time, number === view.active);
  ribbon(draw, stave, top + NAME + view.wave + WORDS + IPA, number);
}

// What is heard of a character. Of a sound that others are heard in too only their own lines stand out.
function waves(draw, stave, box, fps) {
  const { context, view, ink, x } = draw;
  const others = view.staves.filter((one) => one !== stave).flatMap((one) => one.clips);
  const shared = stave.clips.filter((clip) => others.includes(clip));
  for (const clip of stave.clips) clipWave(draw, clip, box, fps, shared.includes(clip) && stave.read ? ink.tin : ink.verdigris);
  if (!shared.length || !stave.read) return;
  context.save();
  context.beginPath();
  for (const { start, end } of stave.lines) context.rect(x(start * fps), box.y, (end - start) * fps * view.perFrame, box.height);
  context.clip();
  for (const clip of shared) clipWave(draw, clip, box, fps, ink.verdigris);
  context.restore();
}

function lyrics({ context, ink, x, view }, stave, top, fps, time, active) {
  const crowded = view.perFrame <= CROWDED;
  const columns = new Set(); // words that are too narrow to be written: where each begins
  for (const line of stave.lines) {
    if (line.end < time.start || line.start > time.end) continue;
    slur(context, x(line.start * fps), x(line.end * fps), top + 9, ink["tin-deep"]);
    for (const word of line.words) {
      for (const [start, end] of word.extra) unwritten(context, ink, x(start * fps), x(end * fps), top);
      if (word.end < time.start || word.start > time.end) continue;
      const chosen = active && sameWord(word, view.word) ? view.word : null;
      if (crowded && word.said && !chosen) columns.add(Math.round(x(word.start * fps)));
      else if (word.said) oneWord(context, ink, word, x, fps, top, chosen);
      else unsaid(context, ink, word, x(word.start * fps), top, chosen);
    }
  }
  context.fillStyle = ink["tin-deep"];
  for (const column of columns) context.fillRect(column, top + 12, 1, WORDS + IPA - 14);
}

export const sameWord = (word, other) => Boolean(other) && word.at[0] === other.at[0] && word.at[1] === other.at[1];
export const isSet = (word) => word.decided || word.pinned.length > 0;
export const edgesOf = (word) => [...word.sounds.map((sound) => sound.start), word.end];

// Speech that was heard and is not written: a hatched stretch.
function unwritten(context, ink, left, right, top) {
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
function unsaid(context, ink, word, left, top, chosen) {
  context.font = `12px ${TEXT}`;
  const wide = widthOf(context, word.text);
  context.fillStyle = chosen ? ink["verdigris-pale"] : ink.paper;
  context.fillRect(left - 2, top - 4, wide + 8, 15);
  context.fillStyle = ink.beet;
  context.fillText(word.text, left + 2, top + 7);
  context.fillRect(left, top + 3, wide + 4, 1);
  context.fillRect(Math.round(left), top + 3, 1, WORDS - 6);
}

function slur(context, left, right, y, stroke) {
  context.strokeStyle = stroke;
  context.lineWidth = 1;
  context.beginPath();
  context.moveTo(left, y);
  context.bezierCurveTo(left + 12, y - 9, right - 12, y - 9, right, y);
  context.stroke();
}

function oneWord(context, ink, word, x, fps, top, chosen) {
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
  if (word.confidence < DOUBTFUL && !isSet(word)) wavy(context, left + 2, right - 2, top + 30, ink.beet);
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

function smallTack(context, ink, x, y) {
  context.fillStyle = ink.beet;
  context.beginPath();
  context.arc(x + 0.5, y + 2, 2.8, 0, Math.PI * 2);
  context.fill();
  context.fillRect(Math.round(x), y + 4, 1.2, 6);
}

// How wide texts are in the fonts they are drawn in; all anew when a font has come.
const widths = new Map();
globalThis.document?.fonts?.addEventListener("loadingdone", () => widths.clear());

function widthOf(context, text) {
  const key = `${context.font} ${text}`;
  let wide = widths.get(key);
  if (wide === undefined) {
    if (widths.size > MOST_WIDTHS) widths.clear();
    wide = context.measureText(text).width;
    widths.set(key, wide);
  }
  return wide;
}

// A label stands whole, a little smaller where it must, or not at all.
function whole(context, text, x, y, room) {
  if (room < LEAST_ROOM) return;
  const wide = widthOf(context, text);
  if (wide * SMALLEST > room) return;
  if (wide <= room) return context.fillText(text, x, y);
  context.save();
  context.translate(x, y);
  context.scale(room / wide, room / wide);
  context.fillText(text, 0, 0);
  context.restore();
}

function wavy(context, left, right, y, stroke) {
  context.strokeStyle = stroke;
  context.lineWidth = 1.2;
  context.beginPath();
  context.moveTo(left, y);
  for (let x = left; x <= right; x += 1.5) context.lineTo(x, y + Math.sin((x - left) * 0.9) * 1.6);
  context.stroke();
}

// The ribbon: half-height is the jaw's opening, rounded lips round its ends, so it compares with the waveform above.
function ribbon(draw, stave, top, number) {
  const { context, width, ink, view, x } = draw;
  const middle = top + RIBBON / 2;
  const drawings = new Map(stave.chart.drawings.map((d) => [d.name, d]));
  context.font = `11px ${TEXT}`;
  const chosen = new Set(view.chosen);
  const seen = (number === view.active && view.drag?.mouths) || stave.exposures;
  const crowded = view.perFrame <= CROWDED;
  if (crowded) crowd(draw, inView(seen, view, width), drawings, top);
  for (const exposure of crowded ? chosenOf(seen, view.chosen) : inView(seen, view, width)) {
    const left = x(exposure.frame);
    const right = x(exposure.frame + exposure.frames);
    const drawing = drawings.get(exposure.drawing);
    if (exposure.own) ownStretch(context, ink, left, right, top);
    if (number === view.active && (chosen.has(exposure.frame) || view.over === exposure.frame)) {
      context.fillStyle = ink["verdigris-pale"];
      context.fillRect(left, top, right - left, RIBBON + LABELS);
      context.strokeStyle = ink.copper;
      context.lineWidth = 2;
      context.strokeRect(left + 1, top + 1, right - left - 2, RIBBON + LABELS - 2);
    }
    if (drawing) block(context, ink, drawing, left, right, middle);
    else nothing(context, ink, left, right, middle);
    context.fillStyle = ink.ink;
    whole(context, (drawing?.lent && drawing.label) || exposure.drawing || "nothing", left + 3, top + RIBBON + 11, right - left - 4);
    if (exposure.pinned) tack(context, ink, (left + right) / 2, top + 3);
  }
  if (stave.eases.length) for (const exposure of inView(seen, view, width)) eased(context, ink, x(exposure.frame), (easeOn(stave.eases, exposure.frame) * view.perFrame) / 2, middle);
  for (const { frame } of toLookAt(stave)) flag(context, ink, x(frame), top - 2);
  if (number === view.active && view.curves?.stave === stave.id) articulation(draw, view.curves, middle);
  if (number === view.active && view.compared) differences(draw, stave, view.compared.exposures, top + RIBBON + LABELS - 3);
  for (const [first, frames, mood] of stave.moods) over(context, ink, x(first), x(first + frames), top + 2, mood);
  for (const [first, frames, own] of stave.passages) over(context, ink, x(first), x(first + frames), top + RIBBON - 3, `hold ${own.hold} · lead ${own.lead} · ${Math.round(own.detail * 100)}% crisp${own.step > 1 ? ` · on ${own.step}s` : ""}`);
  if (number === view.active && view.drag?.slide !== undefined) ghosts(context, ink, view, x, top);
}

// The exposures that are chosen, as far as they are there.
const chosenOf = (exposures, chosen) => chosen.map((frame) => exposures[placeAt(exposures, frame)]).filter((one) => one && chosen.includes(one.frame));

// Exposures that share pixels: of each pixel the widest opening, and whether something is pinned there.
function crowd({ context, ink, x }, exposures, drawings, top) {
  const columns = new Map();
  for (const { frame, drawing, pinned } of exposures) {
    const column = Math.floor(x(frame));
    const own = columns.get(column) ?? { half: 1, pinned: false };
    columns.set(column, { half: Math.max(own.half, halfOf(drawings.get(drawing))), pinned: own.pinned || pinned });
  }
  const ends = [...columns.keys()].slice(1);
  [...columns].forEach(([column, { half, pinned }], i) => {
    const wide = Math.max(1, (ends[i] ?? column + 1) - column);
    context.fillStyle = half > 1 ? ink.verdigris : ink["tin-deep"];
    context.fillRect(column, top + RIBBON / 2 - half, wide, half * 2);
    context.fillStyle = ink.beet;
    if (pinned) context.fillRect(column, top + 3, wide, 4);
  });
}

// A seam that is eased over some frames: a lozenge as wide as they are.
function eased(context, ink, x, half, middle) {
  if (!half) return;
  context.fillStyle = ink.copper;
  context.beginPath();
  context.moveTo(x - half, middle);
  context.lineTo(x, middle - 5);
  context.lineTo(x + half, middle);
  context.lineTo(x, middle + 5);
  context.fill();
}

// What the jaw, and the rounding of the lips, are asked to do, over the ribbon.
function articulation({ context, ink, view, x }, { first, jaw, rounding }, middle) {
  for (const [values, stroke, dash] of [[jaw, ink.copper, []], [rounding, ink.beet, [3, 3]]]) {
    context.strokeStyle = stroke;
    context.lineWidth = 1.2;
    context.setLineDash(dash);
    context.beginPath();
    values.forEach((value, i) => context.lineTo(x(first + i) + view.perFrame / 2, middle - 4 - (value / 100) * 23));
    context.stroke();
  }
  context.setLineDash([]);
}

// Something to look at begins here.
function flag(context, ink, x, y) {
  context.fillStyle = ink.beet;
  context.beginPath();
  context.moveTo(x, y);
  context.lineTo(x + 8, y + 3.5);
  context.lineTo(x, y + 7);
  context.fill();
  context.fillRect(x, y, 1, 12);
}

// Where a take shows other drawings than the track.
function differences({ context, width, ink, view, x }, stave, exposures, y) {
  context.fillStyle = ink.copper;
  const last = Math.min(stave.frames, view.left + width / view.perFrame);
  for (let frame = Math.max(0, Math.floor(view.left)); frame < last; frame += 1) {
    const [own, theirs] = [stave.exposures, exposures].map((seen) => seen[placeAt(seen, frame)]?.drawing);
    if (own !== theirs) context.fillRect(x(frame), y, Math.max(1, view.perFrame), 3);
  }
}

// What slides, where it would go.
function ghosts(context, ink, view, x, top) {
  context.strokeStyle = ink.copper;
  context.lineWidth = 2;
  context.setLineDash([4, 3]);
  const { exposures } = view.staves[view.active];
  for (const frame of view.chosen) {
    const one = exposures[placeAt(exposures, frame)];
    if (one) context.strokeRect(x(one.frame + view.drag.slide) + 1, top + 6, one.frames * view.perFrame - 2, RIBBON - 12);
  }
  context.setLineDash([]);
  context.font = `11px ${MONO}`;
  context.fillStyle = ink.copper;
  context.fillText(`${view.drag.slide < 0 ? "−" : "+"}${Math.abs(view.drag.slide)}`, x(view.chosen[0] + view.drag.slide) + 4, top + 4);
}

// A range that something holds over: a line with what it is.
function over(context, ink, left, right, y, text) {
  context.fillStyle = ink["tin-deep"];
  context.fillRect(left, y, right - left - 1, 1);
  context.fillRect(left, y, 1, 5);
  context.fillRect(right - 2, y, 1, 5);
  context.font = `10px ${TEXT}`;
  whole(context, text, left + 4, y + 9, right - left - 8);
}

// Frames of a stretch with drawings of its own.
function ownStretch(context, ink, left, right, top) {
  context.fillStyle = ink.beet;
  context.globalAlpha = 0.12;
  context.fillRect(left, top, right - left, RIBBON);
  context.globalAlpha = 1;
  context.fillRect(left, top, right - left, 2);
}

// An exposure on which no mouth is shown.
function nothing(context, ink, left, right, middle) {
  context.strokeStyle = ink["tin-deep"];
  context.lineWidth = 1;
  context.setLineDash([3, 3]);
  context.strokeRect(left + 1.5, middle - 8, Math.max(1, right - left - 4), 16);
  context.setLineDash([]);
}

// Half the height of a drawing's block; of none a line.
const halfOf = (drawing) => (!drawing || drawing.shape === "rest" ? 1 : drawing.shape === "press" ? 3 : 4 + drawing.jaw * 23);

function block(context, ink, drawing, left, right, middle) {
  const shut = drawing.shape === "rest";
  const half = halfOf(drawing);
  const wide = Math.max(2, right - left - 1);
  context.fillStyle = shut ? ink["tin-deep"] : drawing.shape === "press" ? ink.ink : ink.verdigris;
  if (wide <= SMALL) return context.fillRect(left, middle - half, right - left, half * 2);
  context.beginPath();
  context.roundRect(left + 0.5, middle - half, wide, half * 2, Math.min(half, wide / 2, 2 + drawing.rounding * 24));
  context.fill();
}

function tack(context, ink, x, y) {
  context.fillStyle = ink.beet;
  context.beginPath();
  context.arc(x, y + 4, 4, 0, Math.PI * 2);
  context.fill();
  context.fillRect(x - 0.75, y + 7, 1.5, 7);
}

function playhead({ context, height, ink, view, x }) {
  const left = x(view.frame);
  context.fillStyle = ink.copper;
  context.globalAlpha = 0.16;
  context.fillRect(left, 0, Math.max(1, view.perFrame), height);
  context.globalAlpha = 1;
  context.fillRect(Math.round(left), 0, 2, height);
  context.beginPath();
  context.moveTo(left - 5, 0);
  context.lineTo(left + 7, 0);
  context.lineTo(left + 1, 9);
  context.fill();
}

/** @typedef {{frame: number, number: number, lane: string, under?: boolean, seam?: number, word?: any, line?: any,
 *   edge?: number, sound?: number}} Spot */

// What lies at a point: which stave and which of its lanes; in the lanes of words and sounds, what can be taken hold of.
/** @returns {Spot} */
export function at(view, x, y) {
  const frame = Math.floor(view.left + x / view.perFrame);
  const tops = topsOf(view);
  const number = tops.findIndex((top, i) => y >= top && y < (tops[i + 1] ?? -1));
  if (number < 0) return { frame, number: -1, lane: "ruler" };
  if (y < tops[number] + NAME && x < 90) return { frame, number, lane: "name" };
  if (view.folded.has(view.staves[number].id)) return { frame, number, lane: "folded" };
  const inside = y - tops[number] - NAME - view.wave;
  if (inside < -6) return { frame, number, lane: "wave" };
  if (inside >= WORDS + IPA) return { frame, number, lane: "ribbon", under: inside >= WORDS + IPA + RIBBON, ...seamAt(view, view.staves[number], x) };
  const lane = inside < LINE ? "line" : inside < WORDS ? "words" : "sounds";
  return { frame, number, lane, ...held(view, view.staves[number], lane, x) };
}

// The seam between two exposures that can be taken hold of at a point.
function seamAt(view, stave, x) {
  const frame = Math.round(view.left + x / view.perFrame);
  const near = Math.min(NEAR, view.perFrame / 3);
  const begins = stave.exposures[placeAt(stave.exposures, frame)]?.frame === frame;
  return begins && frame > 0 && Math.abs((frame - view.left) * view.perFrame - x) <= near ? { seam: frame } : {};
}

function held(view, stave, lane, x) {
  const fps = view.rate.numerator / view.rate.denominator;
  const place = (time) => (time * fps - view.left) * view.perFrame;
  const time = (view.left + x / view.perFrame) / fps;
  const { lines } = stave;
  if (lane === "line") {
    const missing = lines.flatMap((line) => line.words).find((word) => !word.said && x >= place(word.start) - 2 && x <= place(word.start) + 8 * word.text.length + 8);
    if (missing) return { word: missing };
    const line = lines.find((one) => one.start <= time && time < one.end);
    return line ? { line, word: line.words.find((word) => word.said) } : {};
  }
  let nearest = { distance: NEAR };
  for (const line of lines) {
    if (place(line.end) < x - NEAR || place(line.start) > x + NEAR) continue;
    for (const word of line.words.filter((one) => one.said)) {
      edgesOf(word).forEach((edge, k) => {
        const outer = k === 0 || k === word.sounds.length;
        const distance = Math.abs(place(edge) - x) + (k === 0 ? 0 : 0.01);
        if (distance < nearest.distance && (outer || lane === "sounds")) nearest = { distance, word, edge: k };
      });
    }
  }
  if (nearest.word) return { word: nearest.word, edge: nearest.edge };
  const word = lines.flatMap((line) => line.words).find((one) => one.said && one.start <= time && time < one.end);
  if (!word) return {};
  return { word, sound: lane === "sounds" ? word.sounds.findIndex((sound) => sound.start <= time && time < sound.end) : -1 };
}
