// Hand-over: what is to be made, the names of the files before they are made, and where faces stand in one picture.
import { drag } from "../lib/drag.js";
import { ask, post } from "../lib/edits.js";
import { sideBySide, wishOf } from "./wish.js";

const given = JSON.parse(document.getElementById("handover-document")?.textContent ?? "null");
const LOOK_MS = 250;
const STEP = 0.02;

/** @param {any} document */
function handOver(document) {
  let timer = 0;
  return {
    kinds: ["webm"],
    scenes: [],
    characters: document.cast.map((one) => String(one.id)),
    together: document.cast.length > 1,
    first: String(document.start),
    end: String(document.start + document.frames - 1),
    width: "1280",
    height: "720",
    shows: "face",
    clear: false,
    background: "#f4f1ea",
    burnt: [],
    film: false,
    hasFilm: document.film,
    backdrop: false,
    picture: document.picture,
    pattern: "{character}_#####",
    spots: {},
    files: [],
    count: 0,
    problem: "",
    presets: document.presets.map(presetRow),
    presetName: "",
    mayEdit: document.mayEdit,

    init() {
      this.look();
      this.$nextTick(() => this.stage());
    },

    get few() {
      return this.characters.length < 2;
    },
    get looks() {
      return this.kinds.some((kind) => document.formats[kind]?.looks);
    },
    get droppable() {
      return this.mayEdit && Boolean(this.picture);
    },
    get sequence() {
      return this.kinds.includes("png");
    },
    get placed() {
      return this.together && !this.few && this.shows === "face";
    },
    get notClear() {
      const solid = this.kinds.filter((kind) => document.formats[kind]?.looks && !document.formats[kind].clear);
      return this.clear && solid.length ? `${solid.join(", ")} cannot be seen through; white lies under it there.` : "";
    },
    get more() {
      return this.count > this.files.length ? `and ${this.count - this.files.length} more` : "";
    },
    get wish() {
      return wishOf(this);
    },

    size(width, height) {
      Object.assign(this, { width: String(width), height: String(height) });
      this.look();
    },

    // Ask for the names of what will be made, a while after the last change.
    look() {
      clearTimeout(timer);
      timer = setTimeout(() => this.ask(), LOOK_MS);
      this.$nextTick(() => this.stage());
    },
    async ask() {
      try {
        const answer = await post(document.filesUrl, this.wish);
        this.problem = answer.problem ?? "";
        this.count = answer.count ?? 0;
        this.files = (answer.files ?? []).map((one) => ({ ...one, told: one.inside ?? one.about }));
      } catch (failed) {
        this.problem = failed.message;
      }
    },
    async make() {
      try {
        const answer = await post(document.makeUrl, this.wish);
        this.problem = answer.problem ?? "";
      } catch (failed) {
        this.problem = failed.message;
      }
      if (!this.problem) window.document.body.dispatchEvent(new CustomEvent("handover-asked"));
    },

    // A picture to lie behind everybody, or none any more.
    async bring(event) {
      const form = new FormData();
      form.append("picture", event.target.files[0]);
      await this.changePicture(form);
      event.target.value = "";
    },
    async dropPicture() {
      const form = new FormData();
      form.append("drop", "yes");
      await this.changePicture(form);
    },
    async changePicture(form) {
      try {
        const answer = await (await ask(document.backdropUrl, { body: form })).json();
        this.problem = answer.problem ?? "";
        if (answer.picture === undefined) return;
        this.picture = answer.picture;
        this.backdrop = Boolean(answer.picture);
        this.look();
      } catch (failed) {
        this.problem = failed.message;
      }
    },

    use(preset) {
      const { kinds, together, width, height, background, mouth, burnt, film, backdrop, pattern } = preset.wish;
      const ground = background ? { background, clear: false } : { clear: true };
      Object.assign(this, { kinds: [...kinds], together, width: String(width), height: String(height), shows: mouth ? "mouth" : "face", burnt: [...burnt], film: Boolean(film), backdrop: Boolean(backdrop), pattern, ...ground });
      this.look();
    },
    async keep() {
      await this.changePresets(() => post(document.presetsUrl, { name: this.presetName, wish: this.wish }));
      if (!this.problem) this.presetName = "";
    },
    async drop(preset) {
      await this.changePresets(() => post(preset.deleteUrl, {}));
    },
    async changePresets(work) {
      try {
        const answer = await work();
        this.problem = answer.problem ?? "";
        if (answer.presets) this.presets = answer.presets.map(presetRow);
      } catch (failed) {
        this.problem = failed.message;
      }
    },

    // Where the faces stand: side by side, as large as they fit, until somebody moves one.
    spotOf(id) {
      return this.spots[id] ?? sideBySide(this.characters, Number(this.width) / Number(this.height), document.shape)[id];
    },
    stage() {
      const place = window.document.getElementById("stage");
      const ratio = Number(this.width) / Number(this.height);
      if (!place || !(ratio > 0)) return;
      place.style.aspectRatio = String(ratio);
      place.style.backgroundImage = this.backdrop && this.picture ? `url("${this.picture}")` : "";
      for (const face of /** @type {NodeListOf<HTMLElement>} */ (place.querySelectorAll(".stage-face"))) {
        const spot = this.spotOf(face.dataset.character);
        face.hidden = !spot;
        if (spot) {
          face.style.left = `${(100 * spot.x) / ratio}%`;
          face.style.top = `${100 * spot.y}%`;
          face.style.height = `${100 * spot.height}%`;
        }
        if (!face.dataset.held) this.hold(face, place);
      }
    },
    hold(face, place) {
      face.dataset.held = "yes";
      const id = face.dataset.character;
      face.addEventListener("pointerdown", (event) => {
        const begun = { ...this.spotOf(id), at: [event.clientX, event.clientY] };
        const high = place.getBoundingClientRect().height;
        const moved = (now) => this.put(id, { ...begun, x: begun.x + (now.clientX - begun.at[0]) / high, y: begun.y + (now.clientY - begun.at[1]) / high });
        drag(face, event, moved, () => {});
        face.focus();
      });
      face.addEventListener("keydown", (event) => {
        const spot = this.spotOf(id);
        const moves = { ArrowLeft: { x: spot.x - STEP }, ArrowRight: { x: spot.x + STEP }, ArrowUp: { y: spot.y - STEP }, ArrowDown: { y: spot.y + STEP }, "+": { height: spot.height * 1.05 }, "-": { height: spot.height / 1.05 } };
        const change = moves[event.key];
        if (!change) return;
        event.preventDefault();
        this.put(id, { ...spot, ...change });
      });
    },
    put(id, { x, y, height }) {
      this.spots = { ...this.spots, [id]: { x, y, height: Math.min(4, Math.max(0.05, height)) } };
      this.look();
    },
  };
}

const presetRow = (one) => ({ ...one, deleteLabel: `Delete the preset ${one.name}` });

if (given) document.addEventListener("alpine:init", () => window.Alpine.data("handOver", () => handOver(given)));
