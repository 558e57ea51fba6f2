// The exposure sheet: only the rows in sight are on the page. Its edits are those of the desk.
import { Editor, get, onceMore, post, sayIn } from "../lib/edits.js";
import { withPatch } from "../desk/lanes.js";
import { lookAfter } from "../desk/companions.js";
import { mouthPicture } from "../desk/mirror.js";
import { placeAt } from "../desk/selection.js";
import { Slices } from "../desk/slices.js";
import { ActingShown, actionRows } from "../lib/acting.js";
import { heardClips } from "../lib/player.js";
import { extremes, levelFor, loadPeaks, PEAK_RATE } from "../lib/peaks.js";
import { beginHere, beginning, begun, timecode } from "./rows.js";

const HEIGHT = 24;
const BEYOND = 12;
const KEPT = "sheet columns";
const given = JSON.parse(document.getElementById("sheet-document")?.textContent ?? "null");
const $ = (id) => document.getElementById(id);

/** @param {any} page */
function sheetOf(page) {
  const fps = page.scene.rate.numerator / page.scene.rate.denominator;
  const start = page.scene.startFrame;
  const say = sayIn($("problem"));
  const editor = new Editor(say, undefined, lookAgain);
  const slices = new Slices(page.staves, page.slice, derive);
  const state = { notes: page.notes, columns: [], step: 1, at: [0, 0], peaks: [], version: 0 };
  let made = {};
  const acting = new ActingShown(page.actingUrl, derive);
  const rowCount = () => Math.ceil(page.sound.frames / state.step);
  const columns = () => ["frame", ...state.columns.flatMap((name) => (name === "drawings" ? slices.all.map((_, at) => `drawing ${at}`) : [name]))];
  const editable = (name) => page.mayEdit && (name === "notes" || name.startsWith("drawing "));

  // What is derived of the staves is made once for each change.
  function derive() {
    state.version += 1;
    made = { ...begun(slices.all, state.step, fps), acting: actionRows(acting.all, state.step), starts: slices.all.map((stave) => beginning(stave.exposures, state.step)) };
    draw();
  }

  const seenOn = (exposures, frame) => exposures[placeAt(exposures, frame)];
  const known = (stave, frame) => stave.known.some(([first, end]) => first <= frame && frame < end);

  function cell(name, row) {
    const found = document.createElement("div");
    found.className = `sheet-cell sheet-${name.split(" ")[0]}`;
    found.setAttribute("role", "gridcell");
    const frame = row * state.step;
    if (name === "frame") found.textContent = String(frame + start);
    else if (name === "timecode") found.textContent = timecode(frame + start, fps);
    else if (name === "words" || name === "ipa") found.textContent = made[name].get(row) ?? "";
    else if (name === "acting") found.textContent = found.title = made.acting.get(row) ?? "";
    else if (name === "notes") note(found, frame);
    else if (name === "sound") wave(found, frame);
    else drawing(found, Number(name.split(" ")[1]), row);
    if (editable(name)) {
      found.tabIndex = -1;
      found.dataset.row = String(row);
      found.dataset.column = name;
    }
    return found;
  }

  function drawing(found, at, row) {
    const stave = slices.all[at];
    const one = made.starts[at].get(row);
    found.setAttribute("aria-label", `${stave.character}, frame ${row * state.step + start}: ${one ? one.drawing || "nothing" : "held"}`);
    if (!known(stave, row * state.step)) found.textContent = "…";
    else if (!one) found.append(Object.assign(document.createElement("span"), { className: "sheet-held" }));
    else {
      const own = stave.chart.drawings.find((drawn) => drawn.name === one.drawing);
      if (own) found.append(mouthPicture(own));
      found.append(Object.assign(document.createElement("span"), { textContent: one.drawing || "(nothing)" }));
      if (one.pinned) found.classList.add("pinned");
    }
  }

  function note(found, frame) {
    const input = document.createElement("input");
    input.value = state.notes[frame] ?? "";
    input.disabled = !page.mayEdit;
    input.maxLength = 400;
    input.tabIndex = -1;
    input.setAttribute("aria-label", `Note beside frame ${frame + start}`);
    input.addEventListener("change", () => write(frame, input.value));
    found.append(input);
  }

  // The sound of a row, turned upright: loud is wide.
  function wave(found, frame) {
    const [time, seconds] = [frame / fps, state.step / fps];
    const heard = state.peaks.filter(({ clip }) => clip.start < time + seconds && time < clip.start + clip.seconds);
    const parts = heard.map(({ clip, levels }) => extremes(levelFor(levels, seconds * PEAK_RATE), (time - clip.start + clip.offset) * PEAK_RATE, seconds * PEAK_RATE));
    const low = Math.min(0, ...parts.map(([least]) => least));
    const high = Math.max(0, ...parts.map(([, most]) => most));
    const bar = document.createElement("span");
    bar.className = "sheet-wave";
    bar.style.left = `${50 + (50 * low) / 127}%`;
    bar.style.width = `${Math.max(1, (50 * (high - low)) / 127)}%`;
    found.append(bar);
  }

  // Rows in sight, and some beyond.
  function inSight() {
    const box = $("sheet");
    const first = Math.max(0, Math.floor(box.scrollTop / HEIGHT) - BEYOND);
    return [first, Math.min(rowCount(), Math.ceil((box.scrollTop + box.clientHeight) / HEIGHT) + BEYOND)];
  }

  function draw() {
    const body = $("sheet-body");
    const [first, end] = inSight();
    const names = columns();
    body.style.height = `${rowCount() * HEIGHT}px`;
    $("sheet").setAttribute("aria-rowcount", String(rowCount()));
    const kept = new Map([...body.children].map((one) => [one.dataset.key, one]));
    const writing = document.activeElement?.closest?.(".sheet-row")?.dataset.row;
    const fresh = [];
    for (let row = first; row < end; row++) {
      const key = `${row} ${state.version}`;
      const old = kept.get(key) ?? (String(row) === writing && document.activeElement.matches("input") ? body.querySelector(`[data-row="${row}"].sheet-row`) : null);
      fresh.push(old ?? line(row, names, key));
    }
    for (const one of $("sheet-head").querySelectorAll("[data-stave]")) {
      const frame = Math.ceil($("sheet").scrollTop / HEIGHT) * state.step;
      one.lastChild.textContent = seenOn(slices.all[Number(one.dataset.stave)].exposures, frame)?.drawing ?? "";
    }
    const focused = document.activeElement?.dataset?.column ? [...state.at] : null;
    for (const one of [...body.children]) if (!fresh.includes(one)) one.remove();
    for (const one of fresh) if (!one.isConnected) body.append(one);
    if (focused && !body.contains(document.activeElement)) focus(false);
    $("sheet").dataset.ready = "yes";
    more();
  }

  function line(row, names, key) {
    const found = document.createElement("div");
    found.className = `sheet-row${made.lines.has(row) ? " sheet-line" : ""}${second(row) ? " sheet-second" : ""}`;
    found.setAttribute("role", "row");
    found.setAttribute("aria-rowindex", String(row + 1));
    Object.assign(found.dataset, { key, row: String(row) });
    found.style.top = `${row * HEIGHT}px`;
    found.append(...names.map((name) => cell(name, row)));
    return found;
  }

  function second(row) {
    const nominal = Math.ceil(fps - 1e-9);
    return Array.from({ length: state.step }, (_, k) => row * state.step + k + start).some((frame) => frame % nominal === 0);
  }

  function head() {
    const names = columns();
    const shown = names.map((name) => (name.startsWith("drawing ") ? slices.all[Number(name.split(" ")[1])].character : name === "ipa" ? "IPA" : name));
    $("sheet-head").replaceChildren(...names.map((name, at) => Object.assign(document.createElement("div"), { className: `sheet-cell sheet-${name.split(" ")[0]}`, textContent: shown[at] })));
    [...$("sheet-head").children].forEach((one, at) => {
      one.setAttribute("role", "columnheader");
      if (!names[at].startsWith("drawing ")) return;
      one.dataset.stave = names[at].split(" ")[1];
      one.title = "The drawing that is shown on the first row in sight";
      one.append(Object.assign(document.createElement("span"), { className: "quiet" }));
    });
    const widths = { frame: "62px", timecode: "118px", sound: "64px", words: "minmax(110px, 1.2fr)", ipa: "minmax(80px, 0.8fr)", acting: "minmax(90px, 0.9fr)", notes: "minmax(120px, 1.2fr)" };
    $("sheet").style.setProperty("--columns", names.map((name) => widths[name] ?? "minmax(110px, 1fr)").join(" "));
  }

  // Slices that are missing of what is in sight; what changes while they come may make others missing.
  const missing = onceMore(async () => {
    const [first, end] = inSight().map((row) => row * state.step);
    await slices.more(first, end);
  });

  const more = () => missing().catch((failed) => say(failed.message, more));

  function edit(at, verb, what = {}) {
    const { id, editUrl } = slices.all[at];
    $("sheet").dataset.busy = "yes";
    const take = async (patch, done) => {
      if (done && !patch.renumbered) slices.put(withPatch(slices.of(patch.id), patch));
      else await anew(patch.id);
    };
    return editor.edit(editUrl, () => slices.of(id).version, verb, what, take).finally(() => {
      $("sheet").dataset.busy = editor.busy ? "yes" : "no";
    });
  }

  const anew = (id) => slices.anew(id, inSight()[0] * state.step);

  async function lookAgain(sentence) {
    state.notes = (await get(page.notesUrl)).notes;
    for (const { id } of slices.all) await anew(id);
    if (sentence) say(sentence, undefined, "", true);
  }

  async function write(frame, text) {
    try {
      const answer = await post(page.noteUrl, { frame, text });
      if (answer.problem) return say(answer.problem);
      say("");
      state.notes = answer.notes;
    } catch (failed) {
      say(failed.message, () => write(frame, text));
    }
  }

  // The cell that keys go to.
  function focus(scroll = true) {
    const [row, column] = state.at;
    if (scroll) {
      const box = $("sheet");
      if (row * HEIGHT < box.scrollTop + HEIGHT) box.scrollTop = Math.max(0, (row - 2) * HEIGHT);
      if ((row + 3) * HEIGHT > box.scrollTop + box.clientHeight) box.scrollTop = (row + 4) * HEIGHT - box.clientHeight;
      draw();
    }
    const found = $("sheet-body").querySelector(`[data-row="${row}"] [data-column="${columns()[column]}"]`);
    const target = found?.querySelector("input") ?? found;
    target?.focus({ preventScroll: true });
  }

  function move(rows, across) {
    const own = columns().map((name, at) => (editable(name) ? at : -1)).filter((at) => at >= 0);
    if (!own.length) return;
    const place = Math.max(0, own.indexOf(state.at[1]));
    const row = Math.max(0, Math.min(rowCount() - 1, state.at[0] + rows));
    state.at = [row, own[Math.max(0, Math.min(own.length - 1, place + across))]];
    focus();
  }

  // Choosing what begins on a row.
  function choose(at, row) {
    const stave = slices.all[at];
    const place = $("sheet-choice");
    const box = $("sheet-body").querySelector(`[data-row="${row}"] [data-column="drawing ${at}"]`).getBoundingClientRect();
    const here = seenOn(stave.exposures, row * state.step)?.drawing;
    const none = { name: "", label: "nothing", svg: "" };
    const options = [...stave.chart.drawings.filter((one) => !one.lent && one.mood === stave.chart.mood), none].map((one) => {
      const option = document.createElement("button");
      option.type = "button";
      option.setAttribute("role", "option");
      option.setAttribute("aria-selected", String(one.name === here));
      if (one.svg) option.append(mouthPicture(one));
      option.append(one.label);
      option.addEventListener("click", () => begin(at, row, one.name));
      return option;
    });
    place.replaceChildren(...options);
    place.hidden = false;
    place.style.left = `${Math.min(box.left, window.innerWidth - 260)}px`;
    place.style.top = `${Math.min(box.bottom, window.innerHeight - 300)}px`;
    (options.find((one) => one.getAttribute("aria-selected") === "true") ?? options[0]).focus();
  }

  function leave() {
    $("sheet-choice").hidden = true;
    focus(false);
  }

  async function begin(at, row, name) {
    leave();
    const { verb, what } = beginHere(slices.all[at].exposures, row * state.step, name);
    await edit(at, verb, what);
    focus(false);
  }

  function hold(at, row) {
    const one = made.starts[at].get(row);
    if (one && one.frame > 0) edit(at, "remove", { at: [one.frame], hold: true }).then(() => focus(false));
  }

  $("sheet-choice").addEventListener("keydown", (event) => {
    const options = [...$("sheet-choice").children];
    const at = options.indexOf(document.activeElement);
    const step = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (event.key === "Escape") leave();
    else if (step) options[(at + step + options.length) % options.length].focus();
    else return;
    event.preventDefault();
  });
  document.addEventListener("pointerdown", (event) => {
    if (!$("sheet-choice").hidden && !event.target.closest("#sheet-choice")) $("sheet-choice").hidden = true;
  });

  $("sheet-body").addEventListener("focusin", (event) => {
    const own = event.target.closest("[data-column]");
    if (own) state.at = [Number(own.dataset.row), columns().indexOf(own.dataset.column)];
  });
  $("sheet-body").addEventListener("click", (event) => {
    const own = event.target.closest("[data-column^='drawing ']");
    if (!own) return;
    own.focus();
    choose(Number(own.dataset.column.split(" ")[1]), Number(own.dataset.row));
  });
  $("sheet-body").addEventListener("keydown", (event) => {
    const own = event.target.closest("[data-column]");
    if (!own) return;
    const [row, at] = [Number(own.dataset.row), Number(own.dataset.column.split(" ")[1])];
    const note = event.target.matches("input");
    const moves = { ArrowUp: [-1, 0], ArrowDown: [1, 0], PageUp: [-24, 0], PageDown: [24, 0], ...(note ? {} : { ArrowLeft: [0, -1], ArrowRight: [0, 1], Home: [-rowCount(), 0], End: [rowCount(), 0] }) };
    if (moves[event.key]) move(...moves[event.key]);
    else if (event.key === "Enter") note ? move(1, 0) : choose(at, row);
    else if (event.key === "Escape" && note) move(0, -1);
    else if ((event.key === "Delete" || event.key === "Backspace") && !note) hold(at, row);
    else return;
    event.preventDefault();
  });
  document.addEventListener("keydown", (event) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !event.target.matches("input")) {
      event.preventDefault();
      edit(0, event.shiftKey ? "redo" : "undo");
    }
  });
  $("sheet").addEventListener("keydown", (event) => {
    if (event.target !== $("sheet") || !/^(Arrow|Enter)/.test(event.key)) return;
    move(0, 0);
    event.preventDefault();
  });
  $("sheet").addEventListener("scroll", () => requestAnimationFrame(draw), { passive: true });
  window.addEventListener("resize", draw);

  async function heard() {
    const clips = heardClips(page.sound, fps);
    const urls = [...new Set(clips.map((clip) => clip.peaks))];
    const loaded = new Map(await Promise.all(urls.map(async (url) => /** @type {const} */ ([url, await loadPeaks(url)]))));
    state.peaks = clips.map((clip) => ({ clip, levels: loaded.get(clip.peaks) }));
    derive();
  }

  function show(chosen, step) {
    Object.assign(state, { columns: chosen, step });
    head();
    derive();
  }

  lookAfter(page.versionsUrl, async (versions) => {
    if (editor.busy) return;
    if (slices.older(versions).length) await lookAgain("");
    await acting.compare(versions);
  });
  heard().catch((failed) => say(failed.message));
  acting.look();
  return { show, goTo: (frame) => {
    state.at = [Math.max(0, Math.floor((frame - start) / state.step)), columns().findIndex(editable)];
    focus();
  } };
}

function sheetTools() {
  const last = given.scene.startFrame + given.sound.frames - 1;
  const kept = localStorage.getItem(KEPT)?.split(",").filter(Boolean);
  return {
    columns: kept ?? [...given.columns],
    step: "1",
    go: String(given.scene.startFrame),
    first: String(given.scene.startFrame),
    end: String(last),
    paper: "A4",
    rows: "40",
    sheet: null,

    init() {
      this.sheet = sheetOf(given);
      this.shown();
    },
    get ordered() {
      return given.columns.filter((name) => this.columns.includes(name));
    },
    shown() {
      this.sheet.show(this.ordered, Number(this.step));
    },
    changed(event) {
      if (!event.target.closest("fieldset") || event.target.matches(".mono")) return;
      this.$nextTick(() => {
        localStorage.setItem(KEPT, this.ordered.join(","));
        this.shown();
      });
    },
    goTo() {
      const frame = Number.parseInt(this.go, 10);
      if (Number.isFinite(frame)) this.sheet.goTo(frame);
    },
    file(kind) {
      const asked = new URLSearchParams({ first: this.first, end: this.end, step: this.step, rows: this.rows, paper: this.paper, columns: this.ordered.join(",") });
      return `${given.fileUrl.replace("KIND", kind)}?${asked}`;
    },
    get pdf() {
      return this.file("pdf");
    },
    get ods() {
      return this.file("ods");
    },
    get csv() {
      return this.file("csv");
    },
  };
}

if (given) document.addEventListener("alpine:init", () => window.Alpine.data("sheetTools", sheetTools));
