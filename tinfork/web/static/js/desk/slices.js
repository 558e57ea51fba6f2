// The staves of a page that only reads slices of them: what is known, what is missing, and what others changed.
import { get } from "../lib/edits.js";
import { bare, missing, withSlice } from "./lanes.js";

export class Slices {
  // staves: their documents, each with its first slice; size: frames asked for at a time; changed(): after every change.
  constructor(staves, size, changed) {
    this.all = staves.map((stave) => withSlice(bare(stave), stave));
    this.size = size;
    this.changed = changed;
  }

  of(id) {
    return this.all.find((stave) => stave.id === id);
  }

  put(stave) {
    this.all = this.all.map((one) => (one.id === stave.id ? stave : one));
    this.changed();
  }

  // Ask for what is missing of some frames of every stave.
  async more(first, end) {
    for (const { id } of this.all) {
      const next = missing(this.of(id), [first, end], this.size);
      if (next && next[0] < end) await this.#ask(id, next);
    }
  }

  // Nothing that is known of a stave holds any more: ask for it from a frame on.
  anew(id, first) {
    return this.#ask(id, [first, first + this.size], true);
  }

  // The staves that others changed, by the versions the scene has now.
  older(versions) {
    return this.all.filter((one) => (versions[`stave ${one.id}`] ?? 0) > one.version);
  }

  async #ask(id, [first, end], anew = false) {
    const fresh = await get(`${this.of(id).url}?first=${first}&end=${end}`);
    const now = this.of(id);
    // An edit came in before this did: what it says is older than what is known.
    if (fresh.version < now.version) return this.#ask(id, [first, end], anew);
    this.put(withSlice(anew || fresh.version > now.version ? bare(now) : now, fresh));
  }
}
