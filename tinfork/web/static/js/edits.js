// What every request of the page carries, so that the server knows it is ours.
export const pageHeaders = () => JSON.parse(document.body.getAttribute("hx-headers"));

// A line on the page that says what went wrong; a stale edit can be done again from it.
export function sayIn(place) {
  return (sentence, again) => {
    place.textContent = sentence;
    place.hidden = !sentence;
    if (!again) return;
    const button = document.createElement("button");
    Object.assign(button, { type: "button", className: "btn btn-sm btn-quiet", textContent: "Do it again on what is there now" });
    button.addEventListener("click", again);
    place.append(" ", button);
  };
}

// Edits go to the server one after the other, each on the version the last one left; the answer is the whole document.
export class Editor {
  // say(sentence, again) tells what went wrong, "" when all is well; again() does a refused edit on what is there now.
  constructor(say) {
    this.say = say;
    this.last = Promise.resolve();
  }

  // version() is asked when the edit's turn has come; take(document) shows what came back. Resolves to the answer.
  edit(url, version, verb, what, take) {
    const body = () => JSON.stringify({ verb, version: version(), ...what });
    const again = () => this.edit(url, version, verb, what, take);
    return this.#next(url, () => ({ body: body(), headers: { "Content-Type": "application/json" } }), take, again);
  }

  // A form with files, in the same line.
  send(url, form, take) {
    return this.#next(url, () => ({ body: form, headers: {} }), take);
  }

  #next(url, make, take, again) {
    const done = this.last.then(() => this.#ask(url, make(), take, again));
    this.last = done.catch(() => {});
    return done;
  }

  async #ask(url, { body, headers }, take, again) {
    this.say("");
    try {
      const response = await fetch(url, { method: "POST", headers: { ...headers, ...pageHeaders() }, body });
      if (response.status === 413) throw new Error("too large");
      const answer = await response.json();
      if (answer.document) await take(answer.document);
      if (answer.problem) this.say(answer.problem, response.status === 409 ? again : undefined);
      return answer;
    } catch (failed) {
      console.debug(failed);
      this.say("The change did not reach the server; nothing was lost. Look at the connection, then do it again.");
      return {};
    }
  }
}
