// Decoded sound: short ones whole, long ones by pieces, of which only those around what is heard are held.

export const PIECE = 60;
const LONG = 300;

// A sound as it lies in the scene, in seconds: it is heard from start, seconds long, from offset of it on, and whole is
// the length of all of it.
export interface HeardSound {
  listen: string;
  start: number;
  offset: number;
  seconds: number;
  whole: number;
}

export interface Piece {
  url: string;
  when: number;
  inside: number;
  seconds: number;
}

// The pieces of a clip that are heard between two times of the scene: where each is fetched, when it begins to be heard
// in the scene, from where in the piece, and for how long.
export function heardPieces(clip: HeardSound, from: number, to: number): Piece[] {
  const first = Math.max(from, clip.start);
  const last = Math.min(to, clip.start + clip.seconds);
  if (last <= first) return [];
  const shift = clip.start - clip.offset;
  if (!(clip.whole > LONG)) return [{ url: clip.listen, when: first, inside: first - shift, seconds: last - first }];
  const found: Piece[] = [];
  for (let number = Math.floor((first - shift) / PIECE); number * PIECE < last - shift; number += 1) {
    const begins = Math.max(first, number * PIECE + shift);
    const ends = Math.min(last, (number + 1) * PIECE + shift);
    found.push({ url: `${clip.listen}?piece=${number}`, when: begins, inside: begins - shift - number * PIECE, seconds: ends - begins });
  }
  return found;
}

export class Pieces<T> {
  #asked = new Map<string, Promise<void>>();
  #ready = new Map<string, T>();
  readonly load: (url: string) => Promise<T>;

  // load(url): a promise of what is there, decoded.
  constructor(load: (url: string) => Promise<T>) {
    this.load = load;
  }

  // How many are held.
  get count(): number {
    return this.#ready.size;
  }

  get(url: string): T | undefined {
    return this.#ready.get(url);
  }

  // Have what is heard of some clips between two times.
  async have(clips: readonly HeardSound[], from: number, to: number): Promise<void> {
    const urls = new Set(clips.flatMap((clip) => heardPieces(clip, from, to)).map(({ url }) => url));
    await Promise.all([...urls].map((url) => this.#one(url)));
  }

  #one(url: string): Promise<void> {
    const known = this.#asked.get(url);
    if (known) return known;
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
    return asked;
  }

  // Let go of all but short sounds and what is heard of some clips between two times.
  keep(clips: readonly HeardSound[], from: number, to: number): void {
    const kept = new Set(clips.flatMap((clip) => (clip.whole > LONG ? heardPieces(clip, from, to).map(({ url }) => url) : [clip.listen])));
    for (const url of [...this.#asked.keys()]) {
      if (kept.has(url)) continue;
      this.#asked.delete(url);
      this.#ready.delete(url);
    }
  }
}
