// Who did what, and going back; what is corrected again and again, and the rules made of it.
import { panel } from "../../lib/page.ts";
import type { Habits, Offer, Place, Rule } from "../habits.ts";
import type { Step } from "../history.ts";
import type { DockPage } from "./page.ts";

interface StepRow extends Step {
  time: string;
  what: string;
  faded: string;
}

interface ChangeRow extends Place {
  key: number;
  at: string;
  title: string;
  text: string;
}

export const historyPanel = ({ history }: DockPage) =>
  panel({
    history: [] as StepRow[],
    people: [] as { id: string; name: string }[],
    byWhom: "",

    backTo: ({ step }: StepRow) => history.back({ step }),
    takeBack: ({ step }: StepRow) => history.back({ step, alone: true }),
    backToStart: () => history.back({ step: 0 }),
    takeBackAll() {
      history.back({ person: Number(this.byWhom) });
    },
  });

// Those of whom something is done, by their numbers.
const peopleIn = (steps: readonly Step[]) =>
  [...new Map(steps.flatMap((step) => (step.person && !step.undone ? [[step.person, { id: String(step.person), name: step.who }] as const] : []))).values()];

export function historyNow({ history: { steps }, state }: DockPage) {
  const nameOf = (area: string) => state.staves.find((one) => area === `stave ${one.id}`)?.character ?? area.split(" ")[0];
  return { people: peopleIn(steps), history: steps.map((step) => stepRow(step, nameOf)) };
}

function stepRow(step: Step, nameOf: (area: string) => string): StepRow {
  const what = `${[...new Set(step.areas.map(nameOf))].join(", ")} · ${step.who}${step.undone ? " · undone" : ""}`;
  return { ...step, time: new Date(step.when).toLocaleTimeString("en-GB"), what, faded: step.undone ? "faded" : "" };
}

export const habitPanel = (page: DockPage) => {
  const changed = async (verb: string, what: object) => {
    await page.edit(verb, what);
    await page.habits.load();
    page.store.lookAgain();
  };
  return panel({
    offers: [] as (Offer & { key: string; text: string })[],
    rules: [] as (Rule & { text: string })[],
    changes: [] as ChangeRow[],
    wouldChange: "",

    seeWhere: (offer: Offer) => page.habits.preview(offer),
    makeRule: ({ ipa, drawing }: Offer) => changed("rule", { ipa, drawing }),
    dropRule: ({ ipa }: Rule) => changed("no rule", { ipa }),
    goToChange: ({ frame }: ChangeRow) => page.transport.go(frame, true),
  });
};

// What is offered, the rules, and every place that one of the offers would change.
export function habitNow({ habits, state }: { habits: Pick<Habits, "offers" | "rules" | "shown">; state: { startFrame: number } }) {
  const { offers, rules, shown } = habits;
  const changes = shown?.changes ?? [];
  return {
    offers: offers.map((one) => ({ ...one, key: `${one.ipa} ${one.drawing}`, text: `/${one.ipa}/ was given “${one.drawing}” ${one.times} times` })),
    rules: rules.map((one) => ({ ...one, text: `/${one.ipa}/ is shown by “${one.drawing}”${one.here ? "" : ", not in this scene: plan with these drawings"}` })),
    wouldChange: shown ? `${changes.length || "No"} ${changes.length === 1 ? "place" : "places"} would change for /${shown.ipa}/; pins stay.` : "",
    changes: changes.map((one, key) => changeRow(one, key, one.frame + state.startFrame)),
  };
}

const changeRow = (one: Place, key: number, frame: number): ChangeRow => ({ ...one, key, at: String(frame), title: `Go to frame ${frame}`, text: `${one.was} → ${one.now}, ${one.frames}` });
