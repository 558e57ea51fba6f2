// What begins on each row of a sheet, in words, as tinfork.core.shot.action has it.
import type { Acted } from "../lib/store/acted.ts";

const TOLD_ALONE = ["blink", "brows"];

export function actionRows(actings: readonly Acted[], step: number): Map<number, string> {
  const found = new Map<number, string[]>();
  const several = actings.length > 1;
  for (const acted of actings) {
    for (const [frame, text] of actionsOf(acted)) {
      const row = Math.max(0, Math.floor(frame / step));
      const own = several ? `${acted.character}: ${text}` : text;
      const there = found.get(row) ?? [];
      if (!there.includes(own)) found.set(row, [...there, own]);
    }
  }
  return new Map([...found].map(([row, texts]) => [row, texts.join(", ")]));
}

function actionsOf(acted: Acted): [number, string][] {
  const found: [number, string][] = [];
  for (const [line, first] of acted.lines) if (acted.phrases[line]?.note) found.push([first, `“${acted.phrases[line].note}”`]);
  for (const frames of Object.values(acted.moments)) for (const frame of frames) found.push([frame, "key moment"]);
  for (const [part, lane] of Object.entries(acted.lanes)) {
    for (const one of lane.gestures) if (one.seen) found.push([one.frame, TOLD_ALONE.includes(one.kind) ? one.kind : `${part} ${one.kind}`]);
    for (const one of lane.shows) found.push([one.frame, `${part}: ${one.drawing || "nothing"}`]);
    for (const frame of new Set(Object.values(lane.keys).flatMap((own) => own.frames))) found.push([frame, `${part} key`]);
  }
  return found;
}
