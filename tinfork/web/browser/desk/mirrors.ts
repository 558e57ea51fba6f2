// The mirrors of the desk: the active character, the take that is compared, and all of them.
import { GroupMirror, Mirror } from "../lib/face/mirror.ts";
import { $ } from "../lib/page.ts";
import type { Stave } from "../lib/types.ts";
import type { DeskState } from "./state.ts";
import type { Store } from "../lib/store/store.ts";
import type { Takes } from "./takes.ts";

export class Mirrors {
  readonly store: Store;
  readonly state: DeskState;
  readonly own: Mirror;
  readonly group = new GroupMirror($("mirror-all"));
  readonly #take: Mirror;

  constructor(store: Store, state: DeskState) {
    const stave = store.staves[state.active];
    this.store = store;
    this.state = state;
    this.own = new Mirror($("mirror"), $("neighbours"), stave);
    this.#take = new Mirror($("mirror-take"), null, stave);
  }

  // Another character, or other drawings.
  show(stave: Stave): void {
    this.own.show(stave);
    this.#take.show(stave);
  }

  frame({ shown, compared }: Takes): void {
    const { state, store, own } = this;
    const { frame } = state;
    if (state.drag?.mouths) own.preview(state.drag.mouths, frame);
    else if (shown && compared) own.preview(compared.exposures, frame);
    else own.frame(frame, state.onion);
    if (compared) this.#take.preview(compared.exposures, frame);
    if (state.together) this.group.frame(frame, store.staves, (one) => store.posed(one.characterId, frame));
    own.face.pose(...store.posed(own.stave.characterId, frame));
  }

  // The take that is compared has a mirror beside the track's.
  compare({ shown, compared }: Takes): void {
    $("mirror-take").hidden = !compared;
    $("mirrors").classList.toggle("two", Boolean(compared));
    Object.assign($("desk").dataset, { take: compared?.name ?? "", shown: shown ? "take" : "track" });
    $("mirror").dataset.caption = "now";
    $("mirror-take").dataset.caption = compared?.name ?? "";
    if (compared) this.#take.show(this.own.stave);
    this.own.again();
  }
}
