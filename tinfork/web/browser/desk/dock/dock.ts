// The panels of the desk: who is shown, and under the lanes the mouth map, the selected word, the words to look at, the
// readings as files and the pins without a place. The desk says what is so; what is pressed goes back to it.
import { keepTab } from "../../lib/kept.ts";
import { component, joined, panel } from "../../lib/page.ts";
import type { Tab } from "../state.ts";
import { checkNow, checkPanel } from "./checkpanel.ts";
import { fileNow, filePanel } from "./filepanel.ts";
import { mirrorNow, mirrorPanel } from "./mirrorpanel.ts";
import { mouthFields, mouthNow, mouthPanel } from "./mouthpanel.ts";
import { noteNow, notePanel } from "./notepanel.ts";
import type { DockPage } from "./page.ts";
import { habitNow, habitPanel, historyNow, historyPanel } from "./pastpanel.ts";
import { rangeFields, rangeNow, type RangePanel, rangePanel } from "./rangepanel.ts";
import { takeNow, takePanel } from "./takepanel.ts";
import { wordFields, wordNow, wordPanel } from "./wordpanel.ts";

const basePanel = (page: DockPage, begun: (panels: object) => void) =>
  panel({
    mayEdit: page.given.mayEdit,
    tab: "mouths" as Tab,
    about: "",
    init() {
      begun(this);
    },
    open(tab: Tab) {
      keepTab("desk", tab);
      page.open(tab);
    },
  });

const panelsOf = (page: DockPage, begun: (panels: object) => void, now: () => RangePanel) =>
  joined(basePanel(page, begun), mirrorPanel(page), mouthPanel(page), wordPanel(page), filePanel(page), rangePanel(page), checkPanel(page), takePanel(page, now), historyPanel(page), habitPanel(page), notePanel(page));

type Panels = ReturnType<typeof panelsOf>;

export function dockOf(page: DockPage): { show(): void; readonly asked: Panels } {
  // What the templates show: Alpine's own of the panels, as soon as there is one.
  let shown: Panels | null = null;
  const now = () => shown ?? panels;
  const begun = (own: object) => {
    shown = own as Panels;
  };
  const panels: Panels = panelsOf(page, begun, () => now());
  component("dock", () => panels);

  // How it stands now.
  function show(): void {
    const here = now();
    const word = wordNow(page);
    // What can be typed over is shown anew only when it, or what it is about, is another; else it may be half typed.
    const fields = { ...wordFields(word), ...mouthFields(page), ...rangeFields(page) };
    const about = JSON.stringify([fields, word.word?.at, word.sound]);
    if (about !== here.about) Object.assign(here, fields, { about });
    Object.assign(here, { tab: page.state.tab }, word, mirrorNow(page), mouthNow(page), fileNow(page), rangeNow(page, here), checkNow(page), takeNow(page), historyNow(page), habitNow(page), noteNow(page));
  }

  return {
    show,
    // What was asked for in the fields.
    get asked() {
      return now();
    },
  };
}
