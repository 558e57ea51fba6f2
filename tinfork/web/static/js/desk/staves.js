// Drawing time: the frame ruler, then for each character a waveform, the words, the sounds in IPA and the ribbon.
import { colour, fit } from "../lib/peaks.js";
import { clipWave, MONO, RULER, ruler } from "../lib/ruler.js";

const NAME = 18;
const LEAST_WAVE = 54;
const MOST_WAVE = 240;
const WORDS = 34;
const IPA = 18;
const RIBBON = 62;
const LABELS = 16;
const BESIDE_WAVE = NAME + WORDS + IPA + RIBBON + LABELS + 10;
const LINE = 12;
export const DOUBTFUL = 0.7;
const NEAR = 5;
const SMALLEST = 0.75; // how far a label may shrink
const TEXT = '"Atkinson Hyperlegible Next", sans-serif';
const PHONETIC = '"Noto Sans", sans-serif';

// view: {rate, startFrame, left (frames), perFrame (pixels), frame, staves, active, selected, peaks}
export function drawStaves(canvas, view) {
  view.wave = waveHeight(canvas.parentElement.clientHeight, view.staves.length);
  const { context, width, height } = fit(canvas, RULER + staveHeight(view) * view.staves.length + 8);
  canvas.style.height = `${height}px`;
  const ink = Object.fromEntries(
    ["paper", "sheet", "ink", "tin", "tin-deep", "copper", "verdigris", "verdigris-pale", "beet"].map((n) => [n, colour(n)]),
  );
  const draw = { context, width, height, ink, view, x: (frame) => (frame - view.left) * view.perFrame };
  ruler(draw);
  view.staves.forEach((stave, i) => drawStave(draw, stave, RULER + i * staveHeight(view), i));
  playhead(draw);
  if (view.drag) dragged(draw);
  // Where things lie, for whoever cannot see the picture.
  const words = RULER + view.active * staveHeight(view) + NAME + view.wave;
  Object.assign(canvas.dataset, { left: view.left, perFrame: view.perFrame, line: words + 6, words: words + 22, sounds: words + WORDS + 9, ribbon: words + WORDS + IPA + 30 });
}

// Where what is being dragged would go: its edges, and by how many frames it moves.
function dragged({ context, ink, view, x }) {
  const fps = view.rate.numerator / view.rate.denominator;
  const top = RULER + view.active * staveHeight(view) + NAME + view.wave;
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

function drawStave(draw, stave, top, number) {
  const { context, width, ink, view } = draw;
  const fps = view.rate.numerator / view.rate.denominator;
  const time = { start: view.left / fps, end: (view.left + width / view.perFrame) / fps };
  context.font = `600 12px ${TEXT}`;
  context.fillStyle = number === view.active ? ink.ink : ink["tin-deep"];
  context.fillText(stave.character, 8, top + 13);
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
  for (const line of stave.lines) {
    if (line.end < time.start || line.start > time.end) continue;
    slur(context, x(line.start * fps), x(line.end * fps), top + 9, ink["tin-deep"]);
    for (const word of line.words) {
      for (const [start, end] of word.extra) unwritten(context, ink, x(start * fps), x(end * fps), top);
      if (word.end < time.start || word.start > time.end) continue;
      const chosen = active && sameWord(word, view.word) ? view.word : null;
      if (word.said) oneWord(context, ink, word, x, fps, top, chosen);
      else unsaid(context, ink, word, x(word.start * fps), top, chosen);
    }
  }
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
  const wide = context.measureText(word.text).width;
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

// A label stands whole, a little smaller where it must, or not at all.
function whole(context, text, x, y, room) {
  const wide = context.measureText(text).width;
  if (wide * SMALLEST > room) return;
  context.save();
  context.translate(x, y);
  if (wide > room) context.scale(room / wide, room / wide);
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
function ribbon({ context, width, ink, view, x }, stave, top, number) {
  const middle = top + RIBBON / 2;
  const drawings = new Map(stave.chart.drawings.map((d) => [d.name, d]));
  context.font = `11px ${TEXT}`;
  stave.exposures.forEach((exposure, i) => {
    const left = x(exposure.frame);
    const right = x(exposure.frame + exposure.frames);
    if (right < 0 || left > width) return;
    const drawing = drawings.get(exposure.drawing);
    if (number === view.active && i === view.selected) {
      context.fillStyle = ink["verdigris-pale"];
      context.fillRect(left, top, right - left, RIBBON + LABELS);
      context.strokeStyle = ink.copper;
      context.lineWidth = 2;
      context.strokeRect(left + 1, top + 1, right - left - 2, RIBBON + LABELS - 2);
    }
    block(context, ink, drawing, left, right, middle);
    context.fillStyle = ink.ink;
    whole(context, exposure.drawing, left + 3, top + RIBBON + 11, right - left - 4);
    if (exposure.pinned) tack(context, ink, (left + right) / 2, top + 3);
  });
}

function block(context, ink, drawing, left, right, middle) {
  const shut = drawing.shape === "rest";
  const half = shut ? 1 : drawing.shape === "press" ? 3 : 4 + drawing.jaw * 23;
  const wide = Math.max(2, right - left - 1);
  context.fillStyle = shut ? ink["tin-deep"] : drawing.shape === "press" ? ink.ink : ink.verdigris;
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

// What lies at a point: which stave and which of its lanes; in the lanes of words and sounds, what can be taken hold of.
export function at(view, x, y) {
  const frame = Math.floor(view.left + x / view.perFrame);
  const number = Math.floor((y - RULER) / staveHeight(view));
  if (y < RULER || number >= view.staves.length) return { frame, number: -1, lane: "ruler" };
  const inside = y - RULER - number * staveHeight(view) - NAME - view.wave;
  if (inside < -6) return { frame, number, lane: "wave" };
  if (inside >= WORDS + IPA) return { frame, number, lane: "ribbon" };
  const lane = inside < LINE ? "line" : inside < WORDS ? "words" : "sounds";
  return { frame, number, lane, ...held(view, view.staves[number], lane, x) };
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
