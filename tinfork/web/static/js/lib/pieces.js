// Decoded sound: short ones whole, long ones by pieces, of which only those around what is heard are held.

export const PIECE = 60;
const LONG = 300;

// The pieces of a clip that are heard between two times of the scene: where each is fetched, when it begins to be heard
// in the scene, from where in the piece, and for how long.
export function heardPieces(clip, from, to) {
  const first = Math.max(from, clip.start);
  const last = Math.min(to, clip.start + clip.seconds);
  if (last <= first) return [];
  const shift = clip.start - clip.offset;
  if (!(clip.whole > LONG)) return [{ url: clip.listen, when: first, inside: first - shift, seconds: last - first }];
  const found = [];
  for (let number = Math.floor((first - shift) / PIECE); number * PIECE < last - shift; number += 1) {
    const begins = Math.max(first, number * PIECE + shift);
    const ends = Math.min(last, (number + 1) * PIECE + shift);
    found.push({ url: `${clip.listen}?piece=${number}`, when: begins, inside: begins - shift - number * PIECE, seconds: ends - begins });
  }
  return found;
}

export class Pieces {
  /** @type {Map<string, Promise<any>>} */
  #asked = new Map();
  /** @type {Map<string, any>} */
  #ready = new Map();

  // load(url): a promise of what is there, decoded.
  constructor(load) {
    this.load = load;
  }

  // How many are held.
  get count() {
    return this.#ready.size;
  }

  get(url) {
    return this.#ready.get(url);
  }

  // Have what is heard of some clips between two times.
  async have(clips, from, to) {
    const urls = new Set(clips.flatMap((clip) => heardPieces(clip, from, to)).map(({ url }) => url));
    await Promise.all([...urls].map((url) => this.#one(url)));
  }

  #one(url) {
    if (!this.#asked.has(url)) {
      const asked = this.load(url).then(
        (found) => {
          if (this.#asked.get(url) === asked) this.#ready.set(url, found);
        },
        (failed) => {
          this.#asked.delete(url);
          throw failed;
        },
      );
      this.#asked.set(url, asked);
    }
    return this.#asked.get(url);
  }

  // Let go of all but short sounds and what is heard of some clips between two times.
  keep(clips, from, to) {
    const kept = new Set(clips.flatMap((clip) => (clip.whole > LONG ? heardPieces(clip, from, to).map(({ url }) => url) : [clip.listen])));
    for (const url of [...this.#asked.keys()]) {
      if (kept.has(url)) continue;
      this.#asked.delete(url);
      this.#ready.delete(url);
    }
  }
}
