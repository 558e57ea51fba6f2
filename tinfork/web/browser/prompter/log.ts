// What was shot, and what is to be shot again: said to the server when it can be reached, each thing once however often
// it is sent, and kept in the browser until then.

const MOST = 200;

export interface Said {
  key: string;
  frame: number;
  again: boolean;
  when: string;
}

interface Entry {
  frame: number;
  again: boolean;
  who?: string;
  when: string;
}

// What the server knows: for each frame whether it is to be shot again, the last entries, and up to which it was asked.
export interface LogDocument {
  frames: Record<string, boolean>;
  last: Entry[];
  upTo: number;
}

export class Log {
  readonly storage: Pick<Storage, "getItem" | "setItem">;
  readonly key: string;
  readonly send: (said: Said[], since: number) => Promise<LogDocument>;
  waiting: Said[];
  readonly frames = new Map<number, boolean>();
  last: Entry[] = [];
  since = 0;

  // storage: as localStorage; key: what this scene's is kept under; known: {frames, last, upTo} of the server;
  // send(said, since): what the server knows more than up to there after it took what is said, or an error where it
  // cannot be reached.
  constructor(storage: Log["storage"], key: string, known: LogDocument, send: Log["send"]) {
    this.storage = storage;
    this.key = key;
    this.send = send;
    this.waiting = JSON.parse(storage.getItem(key) ?? "[]") as Said[];
    this.#take(known);
  }

  // What the server knows more than when it was asked the last time.
  #take({ frames, last, upTo }: LogDocument) {
    for (const [frame, again] of Object.entries(frames)) this.frames.set(Number(frame), again);
    this.last = [...last, ...this.last].slice(0, MOST);
    this.since = upTo;
    for (const one of this.waiting) this.frames.set(one.frame, one.again);
  }

  // "shot", "again", or "" for a frame of which nothing was said.
  state(frame: number): "shot" | "again" | "" {
    return this.frames.has(frame) ? (this.frames.get(frame) ? "again" : "shot") : "";
  }

  // The frames that are to be shot again, in order.
  get due(): number[] {
    return [...this.frames].filter(([, again]) => again).map(([frame]) => frame).sort((a, b) => a - b);
  }

  say(frame: number, again: boolean, id: string, when: string): void {
    this.waiting.push({ key: id, frame, again, when });
    this.frames.set(frame, again);
    this.#keep();
  }

  // Send what waits; whether all was said.
  async sendWaiting(): Promise<boolean> {
    const said = [...this.waiting];
    if (!said.length) return true;
    const answer = await this.send(said, this.since);
    const gone = new Set(said.map((one) => one.key));
    this.waiting = this.waiting.filter((one) => !gone.has(one.key));
    this.#keep();
    this.#take(answer);
    return !this.waiting.length;
  }

  #keep() {
    this.storage.setItem(this.key, JSON.stringify(this.waiting));
  }
}
