// The whole scene in small: its sound, what of it is in view, and the playhead. The sound is drawn once for as long as it
// is the same.
import { colour, contextOf, fit, type InkName } from "./canvas.ts";
import { drawWave, type Levels } from "./peaks.ts";
import type { TimeView } from "./ruler.ts";
import type { Clip } from "../types.ts";

const HEIGHT = 34;

export interface MiniatureOf {
  frames: number;
  fps: number;
  clips: readonly Clip[];
  peaks: ReadonlyMap<string, Levels>;
  // Pixels of time that are in view.
  shown: number;
  ink: InkName;
}

export class Miniature {
  #key = "";
  #sound = document.createElement("canvas");
  readonly canvas: HTMLCanvasElement;

  constructor(canvas: HTMLCanvasElement) {
    this.canvas = canvas;
  }

  draw(view: TimeView, of: MiniatureOf): void {
    const { context, width, height } = fit(this.canvas, HEIGHT);
    if (!width || !view.perFrame) return;
    const scale = width / of.frames;
    context.drawImage(this.#whole(width, height, of), 0, 0, width, height);
    context.strokeStyle = colour("copper");
    context.lineWidth = 1.5;
    context.strokeRect(view.left * scale + 1, 1, Math.max(6, Math.min(width - 2, (of.shown / view.perFrame) * scale - 2)), height - 2);
    context.fillStyle = colour("copper");
    context.fillRect(view.frame * scale, 0, 2, height);
    if (view.in !== null) context.fillRect(view.in * scale - 0.5, height - 8, 2, 8);
    if (view.out !== null) context.fillRect((view.out + 1) * scale - 0.5, height - 8, 2, 8);
  }

  // The frame at a place of the page.
  frameAt(clientX: number, frames: number): number {
    const box = this.canvas.getBoundingClientRect();
    return Math.floor(((clientX - box.left) / box.width) * frames);
  }

  #whole(width: number, height: number, { frames, fps, clips, peaks, ink }: MiniatureOf): HTMLCanvasElement {
    const drawn = clips.flatMap((clip) => {
      const levels = peaks.get(clip.peaks);
      return levels ? [{ clip, levels }] : [];
    });
    const ratio = window.devicePixelRatio || 1;
    const key = [width, ratio, colour(ink), frames, ...drawn.map(({ clip }) => `${clip.peaks} ${clip.start} ${clip.frames} ${clip.offset}`)].join();
    if (key === this.#key) return this.#sound;
    this.#key = key;
    Object.assign(this.#sound, { width: Math.round(width * ratio), height: Math.round(height * ratio) });
    const context = contextOf(this.#sound);
    context.scale(ratio, ratio);
    const scale = width / frames;
    for (const { clip, levels } of drawn) {
      const box = { x: clip.start * scale, y: 2, width: clip.frames * scale, height: height - 4 };
      drawWave(context, levels, box, [clip.offset / fps, (clip.offset + clip.frames) / fps], colour(ink));
    }
    return this.#sound;
  }
}
