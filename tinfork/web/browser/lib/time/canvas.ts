// Canvases in CSS pixels and in the colours of the theme.

export const TEXT = '"Atkinson Hyperlegible Next", sans-serif';
export const MONO = '"Atkinson Hyperlegible Mono", monospace';
export const PHONETIC = '"Noto Sans", sans-serif';

const INKS = ["paper", "sheet", "ink", "tin", "tin-deep", "copper", "verdigris", "verdigris-pale", "beet"] as const;
export type InkName = (typeof INKS)[number];
export type Ink = Record<InkName, string>;

export interface Fitted {
  context: CanvasRenderingContext2D;
  width: number;
  height: number;
}

export function contextOf(canvas: HTMLCanvasElement): CanvasRenderingContext2D {
  const context = canvas.getContext("2d");
  if (!context) throw new Error("This browser cannot draw.");
  return context;
}

// A canvas sized to its box on the page at the screen's own resolution, ready to draw on in CSS pixels.
export function fit(canvas: HTMLCanvasElement, height = canvas.clientHeight): Fitted {
  const ratio = window.devicePixelRatio || 1;
  const width = canvas.clientWidth;
  sized(canvas, Math.round(width * ratio), Math.round(height * ratio));
  const context = contextOf(canvas);
  context.reset();
  context.scale(ratio, ratio);
  return { context, width, height };
}

// Setting its sides makes a canvas anew, which takes its time.
function sized(canvas: HTMLCanvasElement, across: number, down: number): void {
  if (canvas.width !== across) canvas.width = across;
  if (canvas.height !== down) canvas.height = down;
}

// The same, of a canvas that is as high as what is drawn on it.
export function fitTall(canvas: HTMLCanvasElement, height: number): Fitted {
  const fitted = fit(canvas, height);
  if (canvas.style.height !== `${height}px`) canvas.style.height = `${height}px`;
  return fitted;
}

const known = new Map<string, string>();

// A colour of the theme that is shown; asking the page takes its time, so each is asked for once.
export function colour(name: InkName): string {
  const root = document.documentElement;
  const key = `${root.dataset.bsTheme} ${name}`;
  const found = known.get(key) ?? getComputedStyle(root).getPropertyValue(`--${name}`).trim();
  known.set(key, found);
  return found;
}

export const inks = (): Ink => Object.fromEntries(INKS.map((name) => [name, colour(name)])) as Ink;
