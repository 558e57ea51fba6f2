// The track as it was: takes to compare with and to come back to, and what planning anew would change.
import { panel } from "../../lib/page.ts";
import { ANEW, type Compared, type Take } from "../takes.ts";
import type { DockPage } from "./page.ts";
import type { RangePanel } from "./rangepanel.ts";

interface TakeRow extends Take {
  told: string;
  pressed: string;
  compareText: string;
}

export const takePanel = (page: DockPage, range: () => RangePanel) =>
  panel({
    takes: [] as TakeRow[],
    takeName: "",
    anewText: "",
    anewPressed: "false",
    anewKnown: false,

    async keepTake() {
      if (await page.takes.keep(this.takeName)) this.takeName = "";
    },
    compareAnew: () => page.takes.compareAnew(),
    async planAnew() {
      page.takes.leave();
      const { id } = page.stave();
      await page.edit("plan anew");
      await page.store.anew(id);
    },
    compareTake: (take: TakeRow) => page.takes.compare(take.id),
    restoreTake: (take: TakeRow) => page.edit("restore take", { take: take.id }),
    restoreRange: (take: TakeRow) => range().inRange("restore range", { take: take.id }),
    deleteTake: (take: TakeRow) => page.takes.drop(take.id),
  });

export const takeNow = ({ takes: { rows, compared } }: DockPage) => ({ ...anewNow(compared), takes: rows.map((take) => takeRow(take, take.id === compared?.id)) });

function takeRow(take: Take, compared: boolean): TakeRow {
  const when = new Date(take.when).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });
  return { ...take, told: `${take.who}, ${when}`, pressed: String(compared), compareText: compared ? "Comparing" : "Compare" };
}

// What planning anew would change, once that is known.
function anewNow(compared: Compared | null) {
  const known = compared?.id === ANEW ? compared : null;
  const count = known?.frames ? `${known.frames} of ${known.of} frames would change; what is pinned stays.` : "Nothing would change.";
  return {
    anewText: known ? count : "An edit keeps what was there; this is what the plan would be if nothing had been.",
    anewPressed: String(Boolean(known)),
    anewKnown: Boolean(known?.frames),
  };
}
