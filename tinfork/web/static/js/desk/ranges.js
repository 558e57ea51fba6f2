import { ANEW, meantSo, sameCheck, toLookAt } from "./companions.js";

// What the panels say and ask about ranges, checks, takes and the history; the page does what is asked.

/** @param {any} page */
export function rangePanels(page) {
  return {
    rangeText: "",
    range: null,
    moods: [],
    mood: "",
    own: { hold: "2", lead: "1", step: "1", detail: "0.5" },
    bent: false,
    bend: { wide: "1", tall: "1", lean: "0", frame: 0 },
    others: [],
    checks: [],
    checkCount: 0,
    takes: [],
    takeName: "",
    history: [],
    people: [],
    byWhom: "",
    offers: [],
    rules: [],
    changes: [],
    wouldChange: "",

    get noRange() {
      return !this.range || !page.mayEdit;
    },
    inRange(verb, what = {}) {
      return page.edit(verb, { frame: this.range[0], frames: this.range[1] - this.range[0], ...what });
    },
    async setMood() {
      const [kind, name] = [this.mood[0], this.mood.slice(1)];
      const { id } = page.stave();
      const done = await this.inRange("mood", kind === "c" ? { mood: "", chart: Number(name) } : { mood: name });
      if (done?.document && !done.problem && kind === "c") page.anew(id);
    },
    setPassage() {
      const own = { hold: Number.parseInt(this.own.hold, 10), lead: Number.parseInt(this.own.lead, 10), step: Number(this.own.step), detail: Number(this.own.detail) };
      if (Object.values(own).every(Number.isFinite)) this.inRange("settings of a range", own);
    },
    noPassage() {
      this.inRange("no settings of a range");
    },
    makeStretch() {
      this.inRange("stretch");
    },
    setBend() {
      const [wide, tall, lean] = [this.bend.wide, this.bend.tall, this.bend.lean].map((text) => Number.parseFloat(String(text).replace(",", ".")));
      if ([wide, tall, lean].every(Number.isFinite)) page.edit("bend stretch", { frame: this.bend.frame, wide, tall, lean });
    },
    dropStretch() {
      page.edit("drop stretch", { frame: this.bend.frame });
    },
    async copyTo() {
      const done = await this.inRange("copy to", { to: this.others.filter((one) => one.to).map((one) => one.id) });
      if (done?.notes) page.say(done.notes.join(" "), undefined, "", true);
    },

    goToCheck(check) {
      page.lookAtCheck(check);
    },
    cure(check) {
      page.cure(check);
    },
    meanIt(check) {
      page.meanIt(check);
    },

    keepTake() {
      page.takes.keep(this.takeName).then((kept) => {
        if (kept) this.takeName = "";
      });
    },
    compareAnew() {
      page.takes.compareAnew();
    },
    async planAnew() {
      page.takes.leave();
      await page.edit("plan anew");
      await page.anew(page.stave().id);
    },
    compareTake(take) {
      page.takes.compare(take.id);
    },
    restoreTake(take) {
      page.edit("restore take", { take: take.id });
    },
    restoreRange(take) {
      this.inRange("restore range", { take: take.id });
    },
    deleteTake(take) {
      page.takes.drop(take.id);
    },

    async seeWhere(offer) {
      await page.habits.preview(offer);
    },
    async makeRule(offer) {
      await page.edit("rule", { ipa: offer.ipa, drawing: offer.drawing });
      await page.habits.load();
      page.lookAgain();
    },
    async dropRule(rule) {
      await page.edit("no rule", { ipa: rule.ipa });
      await page.habits.load();
      page.lookAgain();
    },
    goToChange(change) {
      page.go(change.frame);
    },

    backTo(step) {
      page.history.back({ step: step.step });
    },
    takeBack(step) {
      page.history.back({ step: step.step, alone: true });
    },
    backToStart() {
      page.history.back({ step: 0 });
    },
    takeBackAll() {
      page.history.back({ person: Number(this.byWhom) });
    },
  };
}

// What of these panels follows from the stave and from what is selected.
export function rangesNow(page, stave, state, tab, staves, known) {
  const range = state.in === null || state.out === null ? null : [state.in, state.out + 1];
  const here = stave.exposures.find((one) => one.own && one.frame <= state.frame && state.frame < one.frame + one.frames);
  const [wide, tall, lean] = here?.bend ?? [1, 1, 0];
  return {
    range,
    rangeText: range ? `frames ${range[0] + page.startFrame} to ${range[1] - 1 + page.startFrame}` : "Set in and out first (I, O); what is done here holds between them.",
    moods: [
      ...new Set(stave.chart.drawings.filter((one) => !one.lent).map((one) => one.mood)),
    ].map((mood) => ({ value: `m${mood}`, text: mood })).concat(stave.otherCharts.map(([number, name]) => ({ value: `c${number}`, text: `drawings of ${name}` }))),
    bent: Boolean(here),
    bend: { wide: String(wide), tall: String(tall), lean: String(lean), frame: here?.frame ?? 0 },
    others: staves.filter((one) => one.id !== stave.id).map((one) => ({ id: one.characterId, name: one.character, label: `Copy to ${one.character}`, to: known.others.find((other) => other.id === one.characterId)?.to ?? false })),
    checkCount: toLookAt(stave).length,
    checks: tab === "checks" ? stave.checks.map((check, key) => checkRow(check, key, page, state, meantSo(stave, check))) : [],
  };
}

function checkRow(check, key, page, state, meant) {
  const frame = check.frame + page.startFrame;
  return { ...check, key, at: String(frame), title: `Go to frame ${frame}`, label: meant ? "" : (check.fix?.label ?? ""), meant, meantText: meant ? "Look at it again" : "Meant so", marked: `${sameCheck(state.check, check) ? "marked" : ""} ${meant ? "faded" : ""}` };
}

// Habits as the panel tells them: what is offered, the rules, and every place that one of the offers would change.
export function habitsNow({ offers, rules, shown }, page) {
  return {
    offers: offers.map((one) => ({ ...one, key: `${one.ipa} ${one.drawing}`, text: `/${one.ipa}/ was given “${one.drawing}” ${one.times} times` })),
    rules: rules.map((one) => ({ ...one, text: `/${one.ipa}/ is shown by “${one.drawing}”${one.here ? "" : ", not in this scene: plan with these drawings"}` })),
    wouldChange: shown ? `${shown.changes.length || "No"} ${shown.changes.length === 1 ? "place" : "places"} would change for /${shown.ipa}/; pins stay.` : "",
    changes: shown ? shown.changes.map((one, key) => ({ ...one, key, at: String(one.frame + page.startFrame), title: `Go to frame ${one.frame + page.startFrame}`, text: `${one.was} → ${one.now}, ${one.frames}` })) : [],
  };
}

// What planning anew would change, once that is known.
export function anewNow(compared) {
  const known = compared?.id === ANEW ? compared : null;
  const count = known ? (known.frames ? `${known.frames} of ${known.of} frames would change; what is pinned stays.` : "Nothing would change.") : "";
  return { anewText: count || "An edit keeps what was there; this is what the plan would be if nothing had been.", anewPressed: String(Boolean(known)), anewKnown: Boolean(known?.frames) };
}

export const takeRows = (takes, compared) =>
  takes.map((take) => ({ ...take, told: `${take.who}, ${new Date(take.when).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}`, pressed: String(take.id === compared), compareText: take.id === compared ? "Comparing" : "Compare" }));

// Those of whom something is done, by their numbers.
export const peopleIn = (steps) => [...new Map(steps.filter((step) => step.person && !step.undone).map((step) => [step.person, { id: String(step.person), name: step.who }])).values()];

export const historyRows = (steps, nameOf) =>
  steps.map((step) => ({ ...step, time: new Date(step.when).toLocaleTimeString("en-GB"), what: `${[...new Set(step.areas.map(nameOf))].join(", ")} · ${step.who}${step.undone ? " · undone" : ""}`, faded: step.undone ? "faded" : "" }));
