// Who is shown and how, and what the dial of Detail does.
import { panel } from "../../lib/page.ts";
import { get, sentenceOf } from "../../lib/store/requests.ts";
import type { DockPage } from "./page.ts";

const DIAL_WIDTH = 240;
const DIAL_HEIGHT = 44;
const AROUND_SECONDS = 20;

interface DialPoint {
  detail: number;
  exposures: number;
  changes: number;
  reached: number;
}

// Pairs of Detail and a share, as the points of a line in the small picture of the dial.
export const pointsOf = (pairs: readonly (readonly [number, number])[]): string =>
  pairs.map(([detail, share]) => `${(DIAL_WIDTH * detail).toFixed(1)},${(DIAL_HEIGHT * (1 - share)).toFixed(1)}`).join(" ");

export const mirrorPanel = (page: DockPage) =>
  panel({
    voices: [] as { name: string; number: number; selected: string }[],
    many: false,
    together: false,
    onion: false,
    soloed: false,
    curved: false,
    follow: true,
    dialPoints: [] as DialPoint[],
    dialDetail: 0.5,

    activate: (number: number) => page.activate(number),
    seeAll: () => page.looks.seeAll(),
    onionSkin: () => page.looks.onionSkin(),
    fullScreen: () => page.looks.fullScreen(),
    followOrNot: () => page.looks.followOrNot(),
    zoomTo: () => page.looks.zoomTo(),
    solo: () => page.looks.solo(),
    curves: () => page.looks.curves(),
    loopLine: () => page.looks.loopLine(),

    get soloText(): string {
      return String(this.soloed);
    },
    get curvedText(): string {
      return String(this.curved);
    },
    get togetherText(): string {
      return String(this.together);
    },
    get onionText(): string {
      return String(this.onion);
    },
    get followText(): string {
      return String(this.follow);
    },

    async showDial(event: Event): Promise<void> {
      if ((event.target as HTMLDetailsElement).open) this.dialPoints = await dialPoints(page);
    },
    get dialChanges(): string {
      const most = Math.max(1, ...this.dialPoints.map((one) => one.changes));
      return pointsOf(this.dialPoints.map((one) => [one.detail, one.changes / most]));
    },
    get dialReached(): string {
      return pointsOf(this.dialPoints.map((one) => [one.detail, one.reached]));
    },
    get dialAt(): string {
      return String(DIAL_WIDTH * this.dialDetail);
    },
    get dialText(): string {
      const far = (one: DialPoint) => Math.abs(one.detail - this.dialDetail);
      const near = this.dialPoints.toSorted((a, b) => far(a) - far(b))[0] as DialPoint | undefined;
      return near ? `${near.exposures} exposures, ${near.changes.toFixed(1)} changes a second, ${Math.round(near.reached * 100)}% of long vowels open` : "…";
    },
  });

// What Detail does between in and out, or around the playhead.
async function dialPoints({ state, fps, store, stave, say, transport }: DockPage): Promise<DialPoint[]> {
  const around = Math.round(AROUND_SECONDS * fps);
  const [first, end] = transport.span ?? [Math.max(0, state.frame - around), state.frame + around];
  try {
    return (await get<{ points: DialPoint[] }>(`${stave().dialUrl}?first=${first}&end=${Math.min(end, store.frames)}`)).points;
  } catch (failed) {
    say(sentenceOf(failed));
    return [];
  }
}

export function mirrorNow({ state, stave }: DockPage) {
  const own = stave();
  return {
    voices: state.staves.map(({ character }, number) => ({ name: character, number, selected: String(number === state.active) })),
    many: state.staves.length > 1,
    together: state.together,
    onion: state.onion,
    follow: state.follow,
    soloed: state.solo === own.id,
    curved: state.curves !== null,
    dialDetail: own.settings.detail,
  };
}
