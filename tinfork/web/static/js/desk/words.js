// The word that is selected, with all that can be done to it; the doubtful words; the pins whose words vanished.
import { element } from "../lib/element.js";
import { DOUBTFUL, isSet, sameWord } from "./staves.js";

const button = (text, title, action) => {
  const made = element("button", { type: "button", className: "btn btn-sm btn-quiet", textContent: text, title });
  made.addEventListener("click", action);
  return made;
};

export const allWords = (stave) => stave.lines.flatMap((line) => line.words.map((word) => ({ line, word })));
export const wordAt = (stave, place) => allWords(stave).find((one) => sameWord(one.word, place));

// Words to look at, the least sure first; what a person set is not among them.
export function doubtful(stave) {
  const doubt = ({ word }) => (!word.said || word.extra.length ? -1 : word.confidence);
  return allWords(stave)
    .filter(({ word }) => !isSet(word) && (doubt({ word }) < DOUBTFUL))
    .sort((a, b) => doubt(a) - doubt(b));
}

const state = (word) => {
  if (!word.said) return word.decided ? "not said: a person decided so" : "written, but not heard";
  const sure = `${Math.round(word.confidence * 100)}% sure`;
  const unwritten = word.extra.length ? " · speech beside it is not written" : "";
  const guessed = word.guessed ? " · pronunciation guessed" : "";
  return (isSet(word) ? "set by hand" : sure) + guessed + unwritten;
};

export class WordPanel {
  // page: {edit(verb, what), readAgain(words), frame(seconds), select(word), range(): [start, end] or null, mayEdit}
  constructor(place, keyboard, page) {
    this.place = place;
    this.keyboard = keyboard;
    this.page = page;
    this.ipa = element("input", { className: "ipa form-control form-control-sm", spellcheck: false, ariaLabel: "Sound, in IPA" });
    this.ipa.style.width = "5em";
    this.text = element("input", { className: "form-control form-control-sm", placeholder: "word", ariaLabel: "Word to put in" });
    this.text.style.width = "9em";
    this.reread = element("input", { type: "checkbox", id: "reread-inside" });
  }

  // chosen: {at, sound} or null.
  show(stave, chosen) {
    const found = chosen && wordAt(stave, chosen);
    if (!found) {
      this.place.replaceChildren(element("p", { className: "quiet", textContent: stave.read ? "Select a word or a sound in the lanes above. Drag a seam to move it; drag a word or its line as a whole." : "Nothing is read yet: press Read under Script." }));
      return;
    }
    const { word } = found;
    const at = { at: word.at };
    const rows = [this.#title(word, at)];
    if (word.said) rows.push(this.#sounds(word, chosen, at), this.#putIn(at));
    this.place.replaceChildren(...rows);
    if (!this.page.mayEdit) for (const control of this.place.querySelectorAll("button, input")) control.disabled = true;
  }

  #title(word, at) {
    const { edit, frame, readAgain } = this.page;
    const row = element("div", { className: "word-row" });
    row.append(
      element("strong", { textContent: word.text, className: "word-title" }),
      element("span", { className: "mono quiet", textContent: word.said ? `${frame(word.start)} to ${frame(word.end)}` : String(frame(word.start)) }),
      element("span", { className: "quiet", textContent: state(word) }),
    );
    const doing = element("span", { className: "word-do-row" });
    doing.append(button("Looks right", "Pin it as it is (Enter)", () => edit("approve", at)));
    if (isSet(word)) doing.append(button("Unpin", "The next reading may move it again", () => edit("unpin word", at)));
    if (word.said) {
      doing.append(
        button("Not said", "The word is not spoken: no mouth moves for it (Delete)", () => edit("delete word", at)),
        button("Join with next", "Make this word and the next one word (J)", () => edit("join words", at)),
      );
    }
    doing.append(
      button("Read word", "Read this word again; all others stay (R)", () => readAgain(word, true)),
      button("Read line", "Read its line again; what is set by hand stays", () => readAgain(word, false)),
    );
    row.append(doing);
    return row;
  }

  #sounds(word, chosen, at) {
    const { edit, select } = this.page;
    const row = element("div", { className: "word-row" });
    word.sounds.forEach((sound, number) => {
      const chip = button(sound.ipa, `${Math.round(sound.confidence * 100)}% sure`, () => select(word, number));
      chip.className = "btn btn-sm btn-quiet ipa sound-chip";
      chip.setAttribute("aria-pressed", String(number === chosen.sound));
      row.append(chip);
    });
    const number = chosen.sound >= 0 && chosen.sound < word.sounds.length ? chosen.sound : -1;
    this.ipa.value = number >= 0 ? word.sounds[number].ipa : "";
    const typed = () => this.ipa.value.trim();
    const change = button("Change", "Put this sound in the selected one's place", () => edit("sound", { ...at, sound: number, ipa: typed() }));
    const before = button("Put before", "Put this sound before the selected one, or at the word's end", () => edit("insert sound", { ...at, sound: number < 0 ? word.sounds.length : number, ipa: typed() }));
    const away = button("Take away", "Take the selected sound away", () => edit("delete sound", { ...at, sound: number }));
    const split = button("Split word here", "Make two words, the second beginning with the selected sound (S)", () => this.split(word, number));
    for (const one of [change, away]) one.disabled = number < 0;
    split.disabled = number < 1;
    row.append(this.ipa, this.#picker(), change, before, away, split);
    return row;
  }

  #picker() {
    const select = element("select", { className: "form-select form-select-sm ipa ipa-picker", ariaLabel: "IPA signs", title: "IPA signs" });
    select.append(new Option("IPA", ""), ...this.keyboard.slice(1).flat().map((sign) => new Option(sign, sign)));
    select.addEventListener("change", () => {
      this.ipa.value = select.value || this.ipa.value;
    });
    return select;
  }

  #putIn(at) {
    const row = element("div", { className: "word-row" });
    const put = button("Put in", "Put this word between in and out, where nothing is said", () => {
      const range = this.page.range();
      if (range && this.text.value.trim()) this.page.edit("insert word", { ...at, text: this.text.value, start: range[0], end: range[1] });
    });
    put.disabled = !this.page.range();
    const label = element("label", { htmlFor: "reread-inside", textContent: " when a seam moves, read again what is inside (else it keeps its proportions)" });
    label.prepend(this.reread);
    row.append(label, this.text, put, element("span", { className: "quiet", textContent: this.page.range() ? "between in and out" : "set in and out first (I, O)" }));
    return row;
  }

  split(word, sound) {
    const at = Math.max(1, Math.round((word.text.length * sound) / word.sounds.length));
    this.page.edit("split word", { at: word.at, sound, first: word.text.slice(0, at), second: word.text.slice(at) || word.text });
  }
}

// The list of doubtful words, the least sure first.
export function showDoubts(place, stave, chosen, page) {
  const rows = doubtful(stave);
  if (!rows.length) {
    place.replaceChildren(element("p", { className: "quiet", textContent: "No word is doubtful." }));
    return;
  }
  const items = rows.map(({ word, line }) => {
    const item = button("", line.text, () => page.select(word, -1));
    item.classList.add("doubt");
    item.setAttribute("aria-pressed", String(sameWord(word, chosen)));
    item.append(
      element("span", { className: "mono quiet", textContent: String(page.frame(word.start)) }),
      element("span", { textContent: word.text, className: word.said ? "" : "struck" }),
      element("span", { className: "quiet", textContent: word.said ? (word.extra.length ? "unwritten speech" : `${Math.round(word.confidence * 100)}%`) : "not heard" }),
    );
    return item;
  });
  place.replaceChildren(...items);
}

// Pins whose words vanished from the script: each is placed on the selected word, or dropped.
export function showLost(place, stave, chosen, page) {
  const { lost } = stave;
  const target = chosen && wordAt(stave, chosen)?.word;
  const rows = lost.map((word, number) => {
    const row = element("div", { className: "word-row" });
    const put = button(target ? `Place on “${target.text}”` : "Place", "Put this pin on the selected word", () => page.edit("place lost", { lost: number, at: target.at }));
    put.disabled = !target || !page.mayEdit;
    const drop = button("Drop", "Let go of this pin", () => page.edit("drop lost", { lost: number }));
    drop.disabled = !page.mayEdit;
    row.append(element("strong", { textContent: word.text }), element("span", { className: "ipa", textContent: word.ipa }), put, drop);
    return row;
  });
  const words = lost.length ? "These words were set by hand and are no longer in the script. Select a word and place the pin there, or drop it." : "No pin has lost its word.";
  const away = stave.pinsAway.map(({ drawing, frame, frames, why }) => {
    const row = element("div", { className: "word-row" });
    const there = frame === null ? "" : ` from frame ${frame + page.startFrame}`;
    row.append(element("strong", { textContent: drawing }), element("span", { textContent: `pinned for ${frames} frames${there}: ${why}` }));
    if (frame !== null) row.append(button("Go there", "Put the playhead where this pin begins", () => page.go(frame)));
    return row;
  });
  const pins = element("p", { className: "quiet", textContent: "These drawings were pinned and are not seen now, or not whole; they are kept as they were set." });
  const first = element("p", { className: "quiet", textContent: words });
  place.replaceChildren(...(lost.length || !away.length ? [first, ...rows] : []), ...(away.length ? [pins, ...away] : []));
}

// The reading as a file, out and in; what a format cannot hold stands beside it.
export function showFiles(place, stave, formats, bring) {
  const rows = formats.map(([name, code, loses]) => {
    const row = element("div", { className: "word-row" });
    const link = element("a", { href: stave.outUrl.replace("KIND", code), textContent: name });
    row.append(link, element("span", { className: "quiet", textContent: loses ? `does not hold ${loses}` : "holds everything, pins too" }));
    return row;
  });
  const file = element("input", { type: "file", className: "form-control form-control-sm", ariaLabel: "A reading to bring in", accept: ".json,.vtt,.csv,.ctm" });
  file.style.width = "22em";
  file.disabled = !bring;
  file.addEventListener("change", () => file.files.length && bring(file.files[0]));
  const label = element("label", { textContent: "Bring another in, in its place:", className: "word-row" });
  label.append(file);
  const out = element("div", { className: "word-row" });
  out.append(element("strong", { textContent: `${stave.character}'s reading` }), label);
  place.replaceChildren(out, ...(stave.read ? rows : []));
}
