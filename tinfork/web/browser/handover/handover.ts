// Hand-over: what is to be made, the names of the files before they are made, and where faces stand in one picture.
import { drag } from "../lib/drag.ts";
import { component, fieldOf, givenIn, panel } from "../lib/page.ts";
import { formOf, type Or, post, sendForm, sentenceOf } from "../lib/store/requests.ts";
import { type Field, type Form, sideBySide, type Spot, wishOf } from "./wish.ts";

const LOOK_MS = 250;
const STEP = 0.02;

interface Preset {
  name: string;
  deleteUrl: string;
  wish: ReturnType<typeof wishOf>;
}

// clear: whether it can be seen through; looks: whether it is a picture
interface HandoverDocument {
  mayEdit: boolean;
  cast: { id: number }[];
  start: number;
  frames: number;
  film: boolean;
  picture: string;
  shape: number;
  formats: Record<string, { name: string; looks: boolean; clear: boolean; options: Field[] } | undefined>;
  presets: Preset[];
  filesUrl: string;
  makeUrl: string;
  backdropUrl: string;
  presetsUrl: string;
}

interface MadeFile {
  name: string;
  inside?: string;
  about: string;
}

interface Asked extends Field {
  format: string;
  key: string;
  label: string;
  value: string;
}

const usual = (fields: readonly Field[]): Record<string, string> => Object.fromEntries(fields.map((field) => [field.name, String(field.default)]));

const presetRow = (one: Preset) => ({ ...one, deleteLabel: `Delete the preset ${one.name}` });

type Presets = Or<{ presets: Preset[] }>;

// What was chosen last on this browser, and nothing where nothing was.
const LAST = "tinfork hand-over";
const lastKinds = (known: object): string[] => (JSON.parse(localStorage.getItem(LAST) ?? "[]") as string[]).filter((kind) => kind in known);

// What is made appears under the form: it is brought into view when it first does.
function showMade(): void {
  window.document.body.addEventListener("htmx:afterSettle", () => window.document.getElementById("made")?.scrollIntoView({ block: "nearest" }), { once: true });
}

function handOver(document: HandoverDocument) {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const asked = new URLSearchParams(location.search);
  const form: Form = {
    kinds: lastKinds(document.formats),
    // The board asks for several at once, rushes for a version.
    scenes: (asked.get("scenes") ?? "").split(",").filter(Boolean),
    version: asked.get("version") ?? "",
    joined: false,
    slates: true,
    folders: "",
    characters: document.cast.map((one) => String(one.id)),
    together: document.cast.length > 1,
    first: asked.get("version") ? "" : String(document.start),
    end: asked.get("version") ? "" : String(document.start + document.frames - 1),
    width: "1280",
    height: "720",
    shows: "face",
    clear: false,
    background: "#f4f1ea",
    burnt: [],
    film: false,
    backdrop: false,
    fields: Object.fromEntries(Object.entries(document.formats).map(([kind, own]) => [kind, own?.options ?? []])),
    options: {},
    spots: {},
  };
  for (const [kind, fields] of Object.entries(form.fields)) form.options[kind] = usual(fields);
  return panel({
    ...form,
    hasFilm: document.film,
    picture: document.picture,
    files: [] as (MadeFile & { told: string })[],
    count: 0,
    problem: "",
    presets: document.presets.map(presetRow),
    presetName: "",
    mayEdit: document.mayEdit,

    init() {
      this.look();
      this.$nextTick(() => this.stage());
    },

    get few(): boolean {
      return this.characters.length < 2;
    },
    get looks(): boolean {
      return this.kinds.some((kind) => document.formats[kind]?.looks);
    },
    get droppable(): boolean {
      return this.mayEdit && Boolean(this.picture);
    },
    // The fields of the formats that are chosen.
    get asked(): Asked[] {
      return this.kinds.flatMap((kind) => (this.fields[kind] ?? []).map((field) => ({ ...field, format: kind, key: `${kind} ${field.name}`, label: `${document.formats[kind]?.name}: ${field.title}`, value: this.options[kind][field.name] })));
    },
    fillIn(one: Asked, event: Event) {
      this.options[one.format][one.name] = fieldOf(event).value;
    },
    get placed(): boolean {
      return this.together && !this.few && this.shows === "face";
    },
    get notClear(): string {
      const solid = this.kinds.filter((kind) => document.formats[kind]?.looks && !document.formats[kind]?.clear);
      return this.clear && solid.length ? `${solid.join(", ")} cannot be seen through; white lies under it there.` : "";
    },
    get more(): string {
      return this.count > this.files.length ? `and ${this.count - this.files.length} more` : "";
    },
    get wish(): ReturnType<typeof wishOf> {
      return wishOf(this);
    },

    size(width: number, height: number) {
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
        const answer = await post<Or<{ count: number; files: MadeFile[] }>>(document.filesUrl, this.wish);
        this.problem = answer.problem ?? "";
        this.count = answer.count ?? 0;
        this.files = (answer.files ?? []).map((one) => ({ ...one, told: one.inside ?? one.about }));
      } catch (failed) {
        this.problem = sentenceOf(failed);
      }
    },
    async make() {
      try {
        const answer = await post<{ problem?: string }>(document.makeUrl, this.wish);
        this.problem = answer.problem ?? "";
      } catch (failed) {
        this.problem = sentenceOf(failed);
      }
      if (this.problem) return;
      localStorage.setItem(LAST, JSON.stringify(this.kinds));
      showMade();
      window.document.body.dispatchEvent(new CustomEvent("handover-asked"));
    },

    // A picture to lie behind everybody, or none any more.
    async bring(event: Event) {
      const field = fieldOf(event);
      const [file] = field.files ?? [];
      await this.changePicture(formOf({ picture: file }));
      field.value = "";
    },
    async dropPicture() {
      await this.changePicture(formOf({ drop: "yes" }));
    },
    async changePicture(form: FormData) {
      try {
        const answer = await sendForm<Or<{ picture: string }>>(document.backdropUrl, form);
        this.problem = answer.problem ?? "";
        if (answer.picture === undefined) return;
        this.picture = answer.picture;
        this.backdrop = Boolean(answer.picture);
        this.look();
      } catch (failed) {
        this.problem = sentenceOf(failed);
      }
    },

    use(preset: Preset) {
      const { kinds, together, width, height, background, mouth, burnt, film, backdrop, options } = preset.wish;
      const ground = background ? { background, clear: false } : { clear: true };
      Object.assign(this, { kinds: [...kinds], together, width: String(width), height: String(height), shows: mouth ? "mouth" : "face", burnt: [...burnt], film: Boolean(film), backdrop: Boolean(backdrop), ...ground });
      for (const [kind, own] of Object.entries(options)) Object.assign(this.options[kind] ?? {}, Object.fromEntries(Object.entries(own).map(([name, value]) => [name, String(value)])));
      this.look();
    },
    async keep() {
      await this.changePresets(() => post<Presets>(document.presetsUrl, { name: this.presetName, wish: this.wish }));
      if (!this.problem) this.presetName = "";
    },
    async drop(preset: Preset) {
      await this.changePresets(() => post<Presets>(preset.deleteUrl, {}));
    },
    async changePresets(work: () => Promise<Presets>) {
      try {
        const answer = await work();
        this.problem = answer.problem ?? "";
        if (answer.presets) this.presets = answer.presets.map(presetRow);
      } catch (failed) {
        this.problem = sentenceOf(failed);
      }
    },

    // Where the faces stand: side by side, as large as they fit, until somebody moves one.
    spotOf(id: string): Spot | undefined {
      return (this.spots[id] as Spot | undefined) ?? sideBySide(this.characters, Number(this.width) / Number(this.height), document.shape)[id];
    },
    stage() {
      const place = window.document.getElementById("stage");
      const ratio = Number(this.width) / Number(this.height);
      if (!place || !(ratio > 0)) return;
      place.style.aspectRatio = String(ratio);
      place.style.backgroundImage = this.backdrop && this.picture ? `url("${this.picture}")` : "";
      for (const face of place.querySelectorAll<HTMLElement>(".stage-face")) {
        const spot = this.spotOf(face.dataset.character ?? "");
        face.hidden = !spot;
        if (spot) {
          face.style.left = `${(100 * spot.x) / ratio}%`;
          face.style.top = `${100 * spot.y}%`;
          face.style.height = `${100 * spot.height}%`;
        }
        if (!face.dataset.held) this.hold(face, place);
      }
    },
    hold(face: HTMLElement, place: HTMLElement) {
      face.dataset.held = "yes";
      const id = face.dataset.character ?? "";
      face.addEventListener("pointerdown", (event) => {
        const begun = this.spotOf(id);
        if (!begun) return;
        const high = place.getBoundingClientRect().height;
        drag(face, event, (now) => this.put(id, { ...begun, x: begun.x + (now.clientX - event.clientX) / high, y: begun.y + (now.clientY - event.clientY) / high }));
        face.focus();
      });
      face.addEventListener("keydown", (event) => {
        const spot = this.spotOf(id);
        if (!spot) return;
        const moves: Record<string, Partial<Spot> | undefined> = { ArrowLeft: { x: spot.x - STEP }, ArrowRight: { x: spot.x + STEP }, ArrowUp: { y: spot.y - STEP }, ArrowDown: { y: spot.y + STEP }, "+": { height: spot.height * 1.05 }, "-": { height: spot.height / 1.05 } };
        const change = moves[event.key];
        if (!change) return;
        event.preventDefault();
        this.put(id, { ...spot, ...change });
      });
    },
    put(id: string, { x, y, height }: Spot) {
      this.spots = { ...this.spots, [id]: { x, y, height: Math.min(4, Math.max(0.05, height)) } };
      this.look();
    },
  });
}

const given = givenIn<HandoverDocument>("handover-document");
if (given) component("handOver", () => handOver(given));
