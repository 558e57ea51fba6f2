// Work in its order.

// Work that is done one after the other, whether or not what came before it failed.
export class Queue {
  #last: Promise<unknown> = Promise.resolve();

  add<T>(work: () => T | Promise<T>): Promise<T> {
    const done = this.#last.then(work);
    this.#last = done.catch(() => {});
    return done;
  }
}

// Work that is not done twice at once: asked for while it is being done, however often, it is done once more after, also
// when it failed before.
export function onceMore(work: () => Promise<unknown>): () => Promise<void> {
  let busy = false;
  let again = false;
  return async () => {
    again = busy;
    if (busy) return;
    busy = true;
    let failed: unknown;
    do {
      again = false;
      failed = undefined;
      await work().catch((why) => {
        failed = why;
      });
    } while (again);
    busy = false;
    if (failed) throw failed;
  };
}

export type Listener<T> = (what: T) => void;

// Those who want to be told.
export class Told<T> {
  #listeners: Listener<T>[] = [];

  on(listener: Listener<T>): void {
    this.#listeners.push(listener);
  }

  tell(what: T): void {
    for (const listener of this.#listeners) listener(what);
  }
}
