// Requests that change something: how they are sent, and what is said when one fails.

/**
 * @typedef {object} Answer what the server says to an edit
 * @property {any} [document] what it changed, or the whole
 * @property {string} [problem] why it was refused
 * @property {string} [done] what was undone or done again
 * @property {string[]} [notes]
 * @property {boolean} [others] whether the edit touched other documents than the page's own
 */

const SIGN_IN = "/sign-in/";

// What every request of the page carries, so that the server knows it is ours. The cookie is as new as the last sign-in,
// in whichever tab that was.
export function pageHeaders() {
  const given = JSON.parse(document.body.getAttribute("hx-headers"));
  const cookie = document.cookie.match(/(?:^|; )csrftoken=([^;]+)/);
  return cookie ? { ...given, "X-CSRFToken": cookie[1] } : given;
}

// Why a request that reached nobody, or nobody who could do it, failed; "" when it was done or refused with an answer.
// What was typed is still on the page.
export function troubleOf(status, url) {
  if (!status) return "The change did not reach the server; what you did is still on this page. Look at the connection, then do it again.";
  if (new URL(url, location.href).pathname === SIGN_IN) return "You are signed out, so this was not kept. Sign in again in another tab, then do it again here.";
  if (status === 403) return "This page is older than your sign-in, so this was not kept. Do it again; if that fails, reload the page.";
  if (status === 404) return "This is not there any more, or is not yours to change. Reload the page.";
  if (status === 413) return "This is larger than the server takes; nothing was changed.";
  if (status === 503) return "The database is not answering; it is being started again. This was not kept: do it again in a moment.";
  if (status >= 500 && status !== 507) return "Something went wrong on our side, and this was not kept. Do it again; if that fails too, reload the page.";
  return "";
}

// Nobody was reached.
export class NoConnection extends Error {}

const [AGAIN_MS, MOST_MS, LONGER] = [2000, 15000, 1.6];

// How long to wait after so many times: longer each time, and never as long as everybody else who waits.
export const waitAfter = (times) => Math.min(MOST_MS, AGAIN_MS * LONGER ** times) * (0.5 + Math.random() / 2);

// Wait a little, or until the browser says that it is connected again.
export const aWhile = (times = 0) =>
  new Promise((/** @type {(nothing?: unknown) => void} */ resolve) => {
    const over = new AbortController();
    const done = () => {
      over.abort();
      clearTimeout(timer);
      resolve();
    };
    const timer = setTimeout(done, waitAfter(times));
    globalThis.addEventListener?.("online", done, { signal: over.signal });
  });

// Ask the server; the response, or an Error that says in a sentence why there is none.
export async function ask(url, init = {}) {
  let response;
  try {
    response = await fetch(url, { method: "POST", ...init, headers: { ...init.headers, ...pageHeaders() } });
  } catch (failed) {
    console.debug(failed);
    throw new NoConnection(troubleOf(0, url));
  }
  const trouble = troubleOf(response.status, response.url);
  if (trouble) throw new Error(trouble);
  return response;
}

// What the server says at an address, and what it answers to something sent there; see ask for what goes wrong.
export const get = async (url) => (await ask(url, { method: "GET" })).json();
export const post = async (url, what) => (await ask(url, { headers: { "Content-Type": "application/json" }, body: JSON.stringify(what) })).json();

// What comes next in the scene may be another thing now (see next_step.html).
export const tellOfChange = () => document.body.dispatchEvent(new CustomEvent("scene-changed"));

// A line on the page that says what went wrong, or what was done; what failed can be done again from it.
export function sayIn(place) {
  return (sentence, again, label = "Do it again", done = false) => {
    place.textContent = sentence;
    place.hidden = !sentence;
    place.classList.toggle("problem", !done);
    place.classList.toggle("note", done);
    if (!again) return;
    const button = document.createElement("button");
    Object.assign(button, { type: "button", className: "btn btn-sm btn-quiet", textContent: label });
    button.addEventListener("click", again);
    place.append(" ", button);
  };
}

// Another than all there were.
const newKey = () => [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");

// Work that is done one after the other, whether or not what came before it failed.
export class Queue {
  /** @type {Promise<unknown>} */
  #last = Promise.resolve();

  /** @template T
   * @param {() => T | Promise<T>} work
   * @returns {Promise<T>} */
  add(work) {
    const done = this.#last.then(work);
    this.#last = done.catch(() => {});
    return done;
  }
}

/** Work that is not done twice at once: asked for while it is being done, however often, it is done once more after,
 * also when it failed before.
 * @param {() => Promise<unknown>} work */
export function onceMore(work) {
  let [busy, again] = [false, false];
  return async () => {
    again = busy;
    if (busy) return;
    busy = true;
    let failed;
    do {
      [again, failed] = [false, undefined];
      await work().catch((why) => {
        failed = why;
      });
    } while (again);
    busy = false;
    if (failed) throw failed;
  };
}

// Edits go to the server one after the other, each on the version the last one left; what they changed comes back. Those
// that reach nobody wait, in sight, and are sent in their order when there is a connection.
export class Editor {
  #queue = new Queue();
  #waiting = 0;
  #offline = false;

  // Whether an edit is on its way.
  get busy() {
    return this.#waiting > 0;
  }

  // say(sentence, again, label) tells what went wrong, "" when all is well; again() does it once more. others(answer) is
  // told when an edit touched more than the page's own document.
  constructor(say, pause = aWhile, others = reloadSaying) {
    this.say = say;
    this.pause = pause;
    this.others = others;
    globalThis.addEventListener?.("beforeunload", (event) => {
      if (this.#offline) event.preventDefault();
    });
  }

  /** version() is asked when the edit's turn has come; take(document, done) shows what came back, and is told whether the
   * edit was done.
   * @returns {Promise<Answer>} */
  edit(url, version, verb, what, take) {
    const make = () => ({ body: JSON.stringify({ verb, version: version(), ...what }), headers: { "Content-Type": "application/json" } });
    return this.inLine(() => this.#ask(url, make, take, () => this.edit(url, version, verb, what, take)));
  }

  /** A form with files, in the same line. It has a key: sent again as nobody knows whether it came, it counts once.
   * @returns {Promise<Answer>} */
  send(url, form, take) {
    if (!form.has("key")) form.set("key", newKey());
    return this.inLine(() => this.#ask(url, () => ({ body: form }), take, () => this.send(url, form, take)));
  }

  /** Something else that changes what edits are made on: edits that are asked for meanwhile wait for it.
   * @template T
   * @param {() => Promise<T>} work
   * @returns {Promise<T>} */
  inLine(work) {
    this.#waiting += 1;
    if (this.#offline) this.#sayHowMany();
    return this.#queue.add(work).finally(() => {
      this.#waiting -= 1;
    });
  }

  #sayHowMany() {
    const many = this.#waiting === 1 ? "1 edit waits" : `${this.#waiting} edits wait`;
    this.say(`No connection: ${many} on this page, and will be sent in order as soon as there is one. Leave the page open.`);
  }

  // The response; where nobody is reached, it is tried again until somebody is.
  async #reached(url, make) {
    for (let times = 0; ; times += 1) {
      try {
        const response = await ask(url, make());
        if (this.#offline) this.say("");
        this.#offline = false;
        return response;
      } catch (failed) {
        if (!(failed instanceof NoConnection)) throw failed;
        this.#offline = true;
        this.#sayHowMany();
        await this.pause(times);
      }
    }
  }

  /** @returns {Promise<Answer>} */
  async #ask(url, make, take, again) {
    this.say("");
    try {
      const response = await this.#reached(url, make);
      const answer = await response.json();
      if (answer.others) {
        await this.others(answer.done);
        return answer;
      }
      if (answer.document) await take(answer.document, !answer.problem);
      tellOfChange();
      if (answer.problem) this.say(answer.problem, response.status === 409 ? again : undefined, "Do it again on what is there now");
      else if (answer.done) this.say(answer.done, undefined, "", true);
      return answer;
    } catch (failed) {
      console.debug(failed);
      this.say(failed.message, again);
      return {};
    }
  }
}

// An undo may touch what the page shows only beside its own: then it is made anew, and says what was done.
function reloadSaying(sentence) {
  sessionStorage.setItem("said", sentence);
  location.reload();
}

export function sayWhatWasDone(say) {
  const sentence = sessionStorage.getItem("said");
  sessionStorage.removeItem("said");
  if (sentence) say(sentence, undefined, "", true);
}

// The two buttons, each with what it would do.
export function showSteps(undo, redo, { undo: back, redo: forth }, mayEdit) {
  undo.disabled = !back || !mayEdit;
  redo.disabled = !forth || !mayEdit;
  undo.title = back ? `Undo: ${back} (Ctrl+Z)` : "Undo (Ctrl+Z)";
  redo.title = forth ? `Redo: ${forth} (Ctrl+Shift+Z)` : "Redo (Ctrl+Shift+Z)";
}
