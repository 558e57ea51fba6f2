// The peak pyramid of a sound, as the server packs it: count; samples and stretches of each level; then the values.
export const PEAK_RATE = 16000;

export interface Level {
  samples: number;
  values: Int8Array;
}
export type Levels = Level[];

export async function loadPeaks(url: string): Promise<Levels> {
  const response = await fetch(url);
  if (!response.ok) throw new Error("The waveform could not be loaded.");
  const data = await response.arrayBuffer();
  const words = new Uint32Array(data.slice(0, 4));
  const header = new Uint32Array(data.slice(4, 4 + 8 * words[0]));
  const levels: Levels = [];
  let offset = 4 + 8 * words[0];
  for (let i = 0; i < words[0]; i++) {
    const [samples, stretches] = [header[2 * i], header[2 * i + 1]];
    levels.push({ samples, values: new Int8Array(data, offset, stretches * 2) });
    offset += stretches * 2;
  }
  return levels;
}

// The waveforms of some addresses, those that are not known yet, put among those that are.
export async function peaksOf(urls: Iterable<string>, known: Map<string, Levels>): Promise<void> {
  const missing = [...new Set(urls)].filter((url) => !known.has(url));
  await Promise.all(missing.map(async (url) => known.set(url, await loadPeaks(url))));
}

// The level that fits stretches of so many samples.
export const levelFor = (levels: Levels, samples: number): Level => levels.findLast((one) => one.samples <= samples) ?? levels[0];

// The least and the most of a level from a sample on, for so many, -127 to 127.
export function extremes(level: Level, start: number, samples: number): [number, number] {
  const from = Math.floor(start / level.samples);
  const to = Math.max(from + 1, Math.floor((start + samples) / level.samples));
  let low = 0;
  let high = 0;
  for (let i = Math.max(0, from); i < to && 2 * i < level.values.length; i++) {
    low = Math.min(low, level.values[2 * i]);
    high = Math.max(high, level.values[2 * i + 1]);
  }
  return [low, high];
}

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

// Fill a waveform between times start and end (seconds) into a box. One column a pixel, from the level that fits.
// tall: how much higher than it is; what does not fit is cut off.
export function drawWave(context: CanvasRenderingContext2D, levels: Levels, box: Box, [start, end]: readonly [number, number], colour: string, tall = 1): void {
  const perPixel = ((end - start) * PEAK_RATE) / box.width;
  const level = levelFor(levels, perPixel);
  const middle = box.y + box.height / 2;
  context.fillStyle = colour;
  for (let x = 0; x < box.width; x++) {
    const [low, high] = extremes(level, start * PEAK_RATE + x * perPixel, perPixel);
    const top = middle - Math.min(1, (high / 127) * tall) * (box.height / 2);
    const bottom = middle - Math.max(-1, (low / 127) * tall) * (box.height / 2);
    context.fillRect(box.x + x, top, 1, Math.max(1, bottom - top));
  }
}
