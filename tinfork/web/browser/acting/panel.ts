// The panels of the Acting view: the phrase beside, and under the lanes the part, the proposals, poses and passes.
import { goHome } from "../lib/focus.ts";
import { keepTab, keptTab } from "../lib/kept.ts";
import { component, joined, panel } from "../lib/page.ts";
import type { ActedPatch } from "../lib/store/acted.ts";
import type { Answer } from "../lib/store/editor.ts";
import { scaleOf, signOf } from "./lanes.ts";
import { dialsNow, partNow, partPanel } from "./partpanel.ts";
import { learnedNow, phraseHands, phraseNow, phrasePanel, phraseRows } from "./phrasepanel.ts";
import type { Pass } from "./recorder.ts";
import type { Acting } from "./state.ts";

interface BaseHands {
  begun(panels: object): void;
  refresh(): void;
  pass(base: { passOf: string; passWith: string; recording: boolean; passTold: string }): unknown;
}

const basePanel = (acting: Acting, hands: BaseHands) =>
  panel({
    mayEdit: acting.page.mayEdit,
    tab: keptTab<string>("acting", "part", ["part", "scene", "poses", "pass"]),
    cast: [] as { number: number; name: string; chosen: string }[],
    many: false,
    together: false,
    pressed: [] as { name: string; label: string; key: string }[],
    passOf: "y",
    passWith: "mouse",
    passLate: "120",
    passSmooth: "2",
    passAllowed: "0.5",
    passTold: "",
    recording: false,

    init() {
      hands.begun(this);
    },
    open(name: string) {
      (document.activeElement as HTMLElement | null)?.blur();
      this.tab = name;
      keepTab("acting", name);
      hands.refresh();
    },
    activate(number: number) {
      acting.activate(number);
      hands.refresh();
    },
    seeAll() {
      acting.seeAll();
      hands.refresh();
    },
    pass() {
      return hands.pass(this);
    },
  });

const panelsOf = (acting: Acting, base: BaseHands, phrase: ReturnType<typeof phraseHands>) => joined(basePanel(acting, base), phrasePanel(acting, phrase), partPanel(acting, base.refresh));
type Panels = ReturnType<typeof panelsOf>;

export function panelOf(acting: Acting) {
  const { state, edit, say, transport, recorder } = acting;
  let followed = "";
  let shown: Panels | null = null;
  const now = () => shown ?? panels;
  const hands = phraseHands(acting, () => shown?.onlyPart ?? "");
  const begun = (own: object) => {
    shown = own as Panels;
    refresh();
  };
  const panels: Panels = panelsOf(acting, { begun, refresh, pass }, hands);
  component("acting", () => panels);

  async function pass(base: Parameters<BaseHands["pass"]>[0]): Promise<void> {
    if (base.recording) return passEnds("");
    const dial = base.passOf;
    const from = acting.span()?.[0] ?? state.frame;
    if (state.loop) transport.toggleLoop();
    transport.go(from, false);
    base.recording = true;
    base.passTold = "Recording: move the hand.";
    await transport.toggle();
    recorder.begin({ dial, with: base.passWith, drawings: now().drawings, most: dial === "switch" ? 0 : scaleOf(dial) * signOf(dial), from });
  }

  async function passEnds(sentence: string): Promise<void> {
    const made = recorder.end();
    now().recording = false;
    if (transport.player.playing) await transport.toggle();
    goHome();
    if (made) {
      const { pass } = (await keep(made)) as { pass?: { keys: number; frames: number; error: number } };
      now().passTold = pass ? `${pass.keys} keys for ${pass.frames} frames, which miss the hand by ${pass.error} at most.` : "It was not kept.";
    } else now().passTold = "Nothing was recorded.";
    if (sentence) say(sentence);
  }

  // What was recorded becomes keys, or drawings.
  function keep(made: Pass): Promise<Answer<ActedPatch>> {
    const { passLate, passSmooth, passAllowed } = now();
    const last = made.samples.at(-1)?.[0] ?? state.frame;
    const out = acting.span()?.[1] ?? Math.floor(last) + 1;
    const late = (Number(passLate) / 1000) * acting.fps;
    const end = Math.min(state.frames, Math.max(made.from + 1, Math.min(out, Math.floor(last) + 1)));
    const what = { part: state.part, first: made.from, end, late };
    if (made.dial === "switch") return edit("record switch", { ...what, shown: made.shown });
    return edit("record", { ...what, dial: made.dial, samples: made.samples, smooth: Math.round(Number(passSmooth)), allowed: Number(passAllowed) });
  }

  // What goes with the playhead.
  function follow(): void {
    if (!shown || (transport.player.playing && !recorder.on)) return;
    const key = [state.active, state.part, state.dial, state.frame, acting.acted().version].join();
    if (key === followed) return;
    followed = key;
    shown.dials = dialsNow(acting);
    shown.phrase = phraseNow(acting);
  }

  function refresh(): void {
    if (!shown) return;
    followed = "";
    const { actings } = acting.store;
    Object.assign(shown, partNow(acting), {
      cast: actings.map((one, number) => ({ number, name: one.character, chosen: String(number === state.active) })),
      many: actings.length > 1,
      together: state.together,
      wish: acting.acted().wish,
      phrases: shown.tab === "scene" ? phraseRows(acting) : [],
      learned: learnedNow(acting),
    });
    shown.pressed = shown.passOf === "switch" ? shown.drawings : [];
    acting.showSteps();
    follow();
  }

  return {
    ...hands,
    refresh,
    follow,
    passEnds,
    get headToo(): boolean {
      return now().headToo;
    },
  };
}

export type Panel = ReturnType<typeof panelOf>;
