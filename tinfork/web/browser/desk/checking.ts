// Going from one thing that looks wrong to the next, and what is done about it.
import { sayDone } from "../lib/saying.ts";
import { isDone } from "../lib/store/editor.ts";
import { shownAt } from "../lib/store/exposures.ts";
import type { Check } from "../lib/types.ts";
import { type Checks, meantSo, sameCheck, toLookAt } from "./checks.ts";
import type { Choosing } from "./choosing.ts";
import type { Checking } from "./dock/page.ts";
import type { Desk } from "./state.ts";

export function checkingOf(desk: Desk, checks: Checks, choosing: Choosing): Checking & { next(step: number): void } {
  const { state, say } = desk;

  function lookAt(check: Check): void {
    state.check = check;
    const own = shownAt(desk.stave().exposures, check.frame);
    if (own) choosing.choose([own.frame], own.frame, false);
    desk.transport.go(check.frame, true);
    state.tab = "checks";
    desk.showDock();
  }

  function next(step: number): void {
    const own = toLookAt(desk.stave());
    if (!own.length) return sayDone(say, checks.pending ? "Still looking; press C again in a moment." : "Nothing looks wrong.");
    const place = own.findIndex((one) => sameCheck(one, state.check));
    const after = own.findIndex((one) => one.frame >= state.frame);
    lookAt(own[place >= 0 ? (place + step + own.length) % own.length : Math.max(0, after)]);
  }

  async function cure(check: Check | null = state.check): Promise<void> {
    if (!check?.fix) return say(check ? "There is no cure by one click for this; look at it." : "Go to a check first (C).");
    if (isDone(await desk.edit(check.fix.verb, check.fix.what))) state.check = null;
  }

  // What looks wrong is meant so, or is not after all.
  function meanIt(check: Check | null = state.check): void {
    if (!check) return say("Go to a check first (C).");
    desk.edit("meant so", { frame: check.frame, frames: check.frames, kind: check.kind, meant: !meantSo(desk.stave(), check) });
  }

  return { lookAt, next, cure, meanIt };
}
