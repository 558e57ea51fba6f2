// What every request of the page carries, so that the server knows it is ours.
export const pageHeaders = () => JSON.parse(document.body.getAttribute("hx-headers"));

// Edits go to the server one after the other, each on the version the last one left; the answer is the whole document.
export class Editor {
  // say(sentence) tells what went wrong, "" when all is well.
  constructor(say) {
    this.say = say;
    this.last = Promise.resolve();
  }

  // version() is asked when the edit's turn has come; take(document) shows what came back. Resolves to the answer.
  edit(url, version, verb, what, take) {
    const body = () => JSON.stringify({ verb, version: version(), ...what });
    return this.#next(url, () => ({ body: body(), headers: { "Content-Type": "application/json" } }), take);
  }

  // A form with files, in the same line.
  send(url, form, take) {
    return this.#next(url, () => ({ body: form, headers: {} }), take);
  }

  #next(url, make, take) {
    const done = this.last.then(() => this.#ask(url, make(), take));
    this.last = done.catch(() => {});
    return done;
  }

  async #ask(url, { body, headers }, take) {
    this.say("");
    try {
      const response = await fetch(url, { method: "POST", headers: { ...headers, ...pageHeaders() }, body });
      if (response.status === 413) throw new Error("too large");
      const answer = await response.json();
      if (answer.document) await take(answer.document);
      if (answer.problem) this.say(answer.problem);
      return answer;
    } catch (failed) {
      console.debug(failed);
      this.say("The change did not reach the server; nothing was lost. Look at the connection, then do it again.");
      return {};
    }
  }
}
