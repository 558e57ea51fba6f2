// A mouth of ours, drawn from where it lies in articulator space, as tinfork.core.mouths.draw draws it: both are held
// against one table.
import type { Drawing, MouthStyle } from "../facetypes.ts";

export type Place = Pick<Drawing, "jaw" | "width" | "rounding" | "press" | "tuck" | "upper_teeth" | "lower_teeth" | "tongue">;

const NAMES = ["jaw", "width", "rounding", "press", "tuck", "upper_teeth", "lower_teeth", "tongue"] as const;

// So much of the way from one place to another.
export const placeBetween = (one: Place, other: Place, share: number): Place => Object.fromEntries(NAMES.map((name) => [name, one[name] + share * (other[name] - one[name])])) as unknown as Place;

interface Form {
  half: number;
  up: number;
  down: number;
  upperLip: number;
  lowerLip: number;
  full: number;
  lift: number;
  smile: number;
}

const to = (value: number) => value.toFixed(1);

// How far the lips are rolled in.
const rolledIn = ({ press }: Place) => Math.min(1, Math.max(0, (press - 0.3) / 0.7));

function formOf(a: Place, style: MouthStyle): Form {
  const opening = 66 * a.jaw;
  const rolled = rolledIn(a);
  const thin = 1 - 0.4 * rolled;
  const stretched = Math.max(0, a.width - 0.7) / 0.3;
  const smile = 8 * style.corners * (1 - 0.6 * a.rounding) * (1 - 0.5 * rolled) * (1 - 0.4 * stretched);
  return {
    half: (20 + 44 * a.width) * (1 - 0.42 * a.rounding) * (1 - 0.1 * a.jaw),
    up: 0.06 * opening,
    down: 0.94 * opening,
    upperLip: (7 + 3.5 * a.rounding) * thin * style.lips,
    lowerLip: (9.5 + 4 * a.rounding) * thin * style.lips,
    full: 0.5 + 0.5 * Math.max(a.rounding, 0.6 * a.jaw),
    lift: 0.16 * opening - (5 * Math.max(0, a.width - 0.6)) / 0.4 - smile,
    smile,
  };
}

// A closed lip line: corner to corner over the top, back under the bottom. upper, lower: how far outside.
function contour(form: Form, upper: number, lower: number): string {
  const half = form.half + Math.min(upper, lower) * 0.55;
  const [top, bottom, corner] = [-(form.up + upper), form.down + lower, form.lift];
  const reach = half * (0.38 + 0.2 * form.full);
  const [rise, fall] = [(top - corner) * form.full * 0.62, (bottom - corner) * form.full * 0.62];
  const bow = upper ? 1.6 : 0;
  return (
    `M${to(-half)} ${to(corner)}C${to(-half)} ${to(corner + rise)} ${to(-reach)} ${to(top)} ${to(-half * 0.12)} ${to(top)}` +
    `Q0 ${to(top + bow)} ${to(half * 0.12)} ${to(top)}C${to(reach)} ${to(top)} ${to(half)} ${to(corner + rise)} ${to(half)} ${to(corner)}` +
    `C${to(half)} ${to(corner + fall)} ${to(reach)} ${to(bottom)} 0 ${to(bottom)}C${to(-reach)} ${to(bottom)} ${to(-half)} ${to(corner + fall)} ${to(-half)} ${to(corner)}Z`
  );
}

// A row of teeth: the upper one hangs from the skull, the lower one moves with the jaw.
function teeth(amount: number, upper: boolean, form: Form, height: number, style: MouthStyle): string {
  const deep = Math.min(10 * amount, 0.46 * height);
  const [half, y, tall] = upper ? [form.half * 0.86, -form.up - 6, Math.min(14 * amount - 2, 0.52 * height - form.up) + form.up + 6] : [form.half * 0.74, form.down - deep, deep + 6];
  return `<rect x="${to(-half)}" y="${to(y)}" width="${to(2 * half)}" height="${to(Math.max(0, tall))}" rx="4" fill="${style.palette.teeth}" stroke="${style.palette.ink}" stroke-width="1.2"/>`;
}

function inside(a: Place, form: Form, style: MouthStyle): string {
  const { tongue, ink } = style.palette;
  const height = form.up + form.down;
  let found = "";
  if (a.tongue > 0.05) {
    const top = form.down - height * (0.15 + 0.45 * a.tongue);
    found += `<ellipse cx="0" cy="${to(top + 30)}" rx="${to(form.half * 0.62)}" ry="30" fill="${tongue}" stroke="${ink}" stroke-width="1.5"/>`;
  }
  if (a.upper_teeth > 0.05 && style.teeth) found += teeth(a.upper_teeth, true, form, height, style);
  if (a.lower_teeth > 0.05 && style.teeth) found += teeth(a.lower_teeth, false, form, height, style);
  if (a.tongue > 0.9) {
    found += `<ellipse cx="0" cy="${to(form.down - height * 0.36)}" rx="${to(form.half * 0.42)}" ry="${to(Math.max(4.5, height * 0.24))}" fill="${tongue}" stroke="${ink}" stroke-width="1.5"/>`;
  }
  return found;
}

// The line where shut lips meet: soft at rest; pressed, it is straight between two dimples.
function seam(form: Form, a: Place, ink: string, line: number, pressed: number): string {
  const rolled = rolledIn(a);
  const [half, dip] = [form.half * (0.94 + 0.1 * rolled), 5 * (1 - rolled)];
  const stroke = (d: string, wide: string) => `<path d="${d}" fill="none" stroke="${ink}" stroke-width="${wide}" stroke-linecap="round"/>`;
  let found = stroke(`M${to(-half)} ${to(form.lift)}Q0 ${to(form.lift + dip + 2 * form.smile)} ${to(half)} ${to(form.lift)}`, to(line * (2 + pressed * rolled)));
  if (rolled > 0.3) {
    for (const side of [-1, 1]) found += stroke(`M${to(side * (half + 6))} ${to(form.lift - 9)}q${side * 5} 9 0 18`, "2.5");
    found += stroke(`M-11 ${to(form.lift + 19)}Q0 ${to(form.lift + 14)} 11 ${to(form.lift + 19)}`, "2");
  }
  return found;
}

// An SVG group of the mouth at a place. ident: what makes the ids in it unique.
export function styledMouth(a: Place, ident: string, style: MouthStyle): string {
  const { palette, line } = style;
  const form = formOf(a, style);
  const opening = contour(form, 0, 0);
  let found = "";
  if (style.lips) found += `<path d="${contour(form, form.upperLip, form.lowerLip)}" fill="${palette.lip}" stroke="${palette.ink}" stroke-width="${to(2.5 * line)}" stroke-linejoin="round"/>`;
  if (form.up + form.down > 4) {
    found += `<clipPath id="${ident}-in"><path d="${opening}"/></clipPath><path d="${opening}" fill="${palette.inside}"/><g clip-path="url(#${ident}-in)">${inside(a, form, style)}</g>`;
    found += `<path d="${opening}" fill="none" stroke="${palette.ink}" stroke-width="${to(2 * line * (style.lips ? 1 : 1.6))}"/>`;
  } else found += seam(form, a, palette.ink, line, style.lips ? 0.6 : 2);
  if (a.tuck > 0.3) {
    const half = form.half * 0.62;
    found += `<rect x="${to(-half)}" y="${to(-form.up - 1)}" width="${to(2 * half)}" height="9" rx="3.5" fill="${palette.teeth}" stroke="${palette.ink}" stroke-width="${to(1.8 * line)}"/>`;
  }
  return `<g class="mouth">${found}</g>`;
}
