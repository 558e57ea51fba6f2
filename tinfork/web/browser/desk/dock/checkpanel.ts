// What looks wrong, each with its place and its cure.
import { panel } from "../../lib/page.ts";
import type { Check } from "../../lib/types.ts";
import { meantSo, sameCheck, toLookAt } from "../checks.ts";
import type { DockPage } from "./page.ts";

interface CheckRow extends Check {
  key: number;
  at: string;
  title: string;
  label: string;
  meant: boolean;
  meantText: string;
  marked: string;
}

export const checkPanel = (page: DockPage) =>
  panel({
    checks: [] as CheckRow[],
    checkCount: 0,
    goToCheck: (check: CheckRow) => page.checking.lookAt(check),
    cure: (check: CheckRow) => page.checking.cure(check),
    meanIt: (check: CheckRow) => page.checking.meanIt(check),
  });

export function checkNow(page: DockPage) {
  const stave = page.stave();
  return { checkCount: toLookAt(stave).length, checks: page.state.tab === "checks" ? stave.checks.map((check, key) => checkRow(check, key, page, meantSo(stave, check))) : [] };
}

function checkRow(check: Check, key: number, { state }: DockPage, meant: boolean): CheckRow {
  const frame = check.frame + state.startFrame;
  return {
    ...check,
    key,
    at: String(frame),
    title: `Go to frame ${frame}`,
    label: meant ? "" : (check.fix?.label ?? ""),
    meant,
    meantText: meant ? "Look at it again" : "Meant so",
    marked: `${sameCheck(state.check, check) ? "marked" : ""} ${meant ? "faded" : ""}`,
  };
}
