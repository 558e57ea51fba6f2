// Labels in little room.

const LEAST_ROOM = 5; // pixels that any label needs; asking how wide a text is takes its time
const MOST_WIDTHS = 5000;
const SMALLEST = 0.75; // how far a label may shrink

// How wide texts are in the fonts they are drawn in; all anew when a font has come.
const widths = new Map<string, number>();
globalThis.document?.fonts?.addEventListener("loadingdone", () => widths.clear());

export function widthOf(context: CanvasRenderingContext2D, text: string): number {
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
export function whole(context: CanvasRenderingContext2D, text: string, x: number, y: number, room: number): void {
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
