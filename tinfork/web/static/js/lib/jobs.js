// Long work that the page waits for.
import { ask } from "./edits.js";

const PAUSE = 200;

/** Ask for a job until it has ended; progress(share) hears how far it has come. An Error when it cannot be asked for.
 * @returns {Promise<{state: string, progress: number, message: string}>} */
export async function ended(job, progress = (_share) => {}) {
  for (;;) {
    const now = await (await ask(job, { method: "GET", headers: { Accept: "application/json" } })).json();
    progress(now.progress);
    if (now.ended) return now;
    await new Promise((done) => setTimeout(done, PAUSE));
  }
}
