// Which drawings are the likeliest for an exposure: those that look most like what the mouth aims at there.
import type { Drawing } from "../lib/facetypes.ts";
import type { Articulators, Stave } from "../lib/types.ts";

const REST = "rest";

// The shape the mouth aims at on a frame: the sound's that is heard in its middle, rest in silence.
export function shapeAt(stave: Pick<Stave, "lines" | "aims">, frame: number, fps: number): string {
  const time = (frame + 0.5) / fps;
  for (const line of stave.lines) {
    if (time < line.start || time >= line.end) continue;
    for (const word of line.words) {
      const sound = word.said && word.sounds.find((one) => one.start <= time && time < one.end);
      if (!sound) continue;
      const shapes = stave.aims[sound.ipa] ?? [REST];
      return shapes.length > 1 && time > (sound.start + sound.end) / 2 ? shapes[1] : shapes[0];
    }
  }
  return REST;
}

// So many drawings are gone through from the likeliest on.
const LIKELY = 5;

// The likeliest of ranked drawings; where that, or another of the likeliest, is shown already, the next likeliest.
export function nextLikely(ranked: readonly Drawing[], shown: string): Drawing | undefined {
  const likely = ranked.slice(0, LIKELY);
  return likely[(likely.findIndex((one) => one.name === shown) + 1) % likely.length];
}

// The drawings, the likeliest first. place: what is aimed at; weights: how much each articulator is seen.
export function likeliest(drawings: readonly Drawing[], place: Articulators, weights: Record<string, number>): Drawing[] {
  const seen = (drawing: Drawing, name: string) => (drawing as unknown as Articulators)[name];
  const away = (drawing: Drawing) => Object.entries(weights).reduce((sum, [name, weight]) => sum + weight * (seen(drawing, name) - place[name]) ** 2, 0);
  return drawings
    .map((drawing): [number, Drawing] => [away(drawing), drawing])
    .sort(([a], [b]) => a - b)
    .map(([, drawing]) => drawing);
}
