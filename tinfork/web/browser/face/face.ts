// A face: layers of pictures and the mouth's anchor, placed by dragging or by key. What is moved is kept at once.
import { component, fieldOf, givenIn, inside, targetOf } from "../lib/page.ts";
import { ask, formOf, sentenceOf } from "../lib/store/requests.ts";
import { type Layer, layerTransform, type Mouth, mouthTransform, type Move, moved, moveOf } from "./lying.ts";

const SVG = "http://www.w3.org/2000/svg";
const REST = 350; // ms without a move, after which it is kept
const FIELDS = ["x", "y", "scale", "size", "turn"];

// change: where it is kept
interface Picture extends Layer {
  id: number;
  change: string;
  href: string;
  width: number;
  height: number;
  hidden: boolean;
  inFront: boolean;
  inTurn: boolean;
}

type Part = Picture | (Mouth & { change: string });

interface FaceDocument {
  mouth: Mouth & { change: string };
  usual: Mouth;
  layers: Picture[];
  mouths: { svg: string }[];
  head: string;
  view: number[];
}

function group(kind: string): SVGGElement {
  const made = document.createElementNS(SVG, "g");
  made.dataset.part = kind;
  return made;
}

function pictureOf(layer: Picture): SVGImageElement {
  const image = document.createElementNS(SVG, "image");
  const { width, height } = layer;
  for (const [name, value] of Object.entries({ href: layer.href, x: -width / 2, y: -height / 2, width, height })) {
    image.setAttribute(name, String(value));
  }
  return image;
}

function table(face: FaceDocument): void {
  component("faceTable", () => ({
    parts: { mouth: face.mouth, ...Object.fromEntries(face.layers.map((layer) => [String(layer.id), layer])) } as Record<string, Part>,
    mouths: face.mouths,
    chosen: "mouth",
    done: [] as [string, Part][],
    due: new Set<string>(),
    said: "",
    // Where the pointer was, while it drags, and whether it moved yet.
    from: null as [number, number] | null,
    held: false,
    timer: undefined as ReturnType<typeof setTimeout> | undefined,

    get steps(): number {
      return this.done.length;
    },
    get where(): string {
      const part = this.parts[this.chosen];
      const size = "size" in part ? part.size : part.scale;
      return `${part.x.toFixed(1)} across · ${part.y.toFixed(1)} down · ${(size * 100).toFixed(0)}% · ${part.turn.toFixed(0)}°`;
    },
    get svg(): SVGSVGElement {
      return inside(this.$root, "#face");
    },
    get picker(): HTMLSelectElement {
      return this.$refs.chosen as HTMLSelectElement;
    },
    get mayEdit(): boolean {
      return "mayEdit" in this.$root.dataset;
    },

    init() {
      const { svg } = this;
      svg.setAttribute("viewBox", face.view.join(" "));
      const head = group("head");
      head.innerHTML = face.head;
      const layers = face.layers.filter((layer) => !layer.hidden);
      const drawn = (layer: Picture) => {
        const made = group(String(layer.id));
        made.append(pictureOf(layer));
        return made;
      };
      svg.append(head, ...layers.filter((one) => !one.inFront).map(drawn), group("mouth"), ...layers.filter((one) => one.inFront).map(drawn));
      this.mouthShown(0);
      this.draw();
      svg.dataset.ready = "";
      addEventListener("pagehide", () => this.keepAll());
    },
    draw() {
      for (const made of this.svg.querySelectorAll<SVGElement>("[data-part]")) {
        const part = this.parts[made.dataset.part ?? ""] as Part | undefined;
        if (part) made.setAttribute("transform", "size" in part ? mouthTransform(part) : layerTransform(part));
        made.classList.toggle("chosen", made.dataset.part === this.chosen);
        // What is shown in turn with others is seen while it is placed.
        made.setAttribute("display", part && "inTurn" in part && part.inTurn && made.dataset.part !== this.chosen ? "none" : "inline");
      }
    },
    mouthShown(at: number) {
      inside(this.svg, "[data-part=mouth]").innerHTML = `${this.mouths[at].svg}<path class="anchor" d="M-6 0H6M0 -6V6"/>`;
    },
    show(event: Event) {
      this.mouthShown(Number(fieldOf(event).value));
    },
    choose(event: Event) {
      this.chosen = fieldOf(event).value;
      this.draw();
    },

    change(by: Move, goesOn = false) {
      if (!this.mayEdit) return;
      if (!goesOn) this.done.push([this.chosen, { ...this.parts[this.chosen] }]);
      this.parts[this.chosen] = moved(this.parts[this.chosen], by);
      this.draw();
      this.later();
    },
    size(times: number) {
      this.change({ x: 0, y: 0, times, turn: 0 });
    },
    rotate(turn: number) {
      this.change({ x: 0, y: 0, times: 1, turn });
    },
    usual() {
      this.chosen = "mouth";
      this.picker.value = "mouth";
      this.done.push(["mouth", { ...this.parts.mouth }]);
      Object.assign(this.parts.mouth, face.usual);
      this.draw();
      this.later();
    },
    undo() {
      const last = this.done.pop();
      if (!last) return;
      this.chosen = last[0];
      this.picker.value = last[0];
      this.parts[last[0]] = last[1];
      this.draw();
      this.later();
    },
    key(event: KeyboardEvent) {
      if (event.ctrlKey && event.key === "z") this.undo();
      else {
        const by = moveOf(event.key, event.shiftKey);
        if (!by) return;
        this.change(by);
      }
      event.preventDefault();
    },

    at(event: MouseEvent): [number, number] {
      const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.svg.getScreenCTM()?.inverse());
      return [point.x, point.y];
    },
    grab(event: PointerEvent) {
      const part = targetOf(event).closest<SVGElement>("[data-part]")?.dataset.part;
      if (!this.mayEdit || event.button !== 0) return;
      if (part && part in this.parts) {
        this.chosen = part;
        this.picker.value = part;
        this.draw();
      }
      this.svg.setPointerCapture(event.pointerId);
      this.from = this.at(event);
      this.held = false;
    },
    drag(event: PointerEvent) {
      if (!this.from) return;
      const [x, y] = this.at(event);
      this.change({ x: x - this.from[0], y: y - this.from[1], times: 1, turn: 0 }, this.held);
      this.held = true;
      this.from = [x, y];
    },
    drop() {
      this.from = null;
    },

    // What was moved is kept when the hand rests, each part for itself, and before the page is left.
    later() {
      this.due.add(this.chosen);
      clearTimeout(this.timer);
      this.said = "…";
      this.timer = setTimeout(() => this.keepAll(), REST);
    },
    keepAll() {
      const parts = [...this.due];
      this.due.clear();
      return Promise.all(parts.map((part) => this.keep(part)));
    },
    async keep(part: string) {
      const own = this.parts[part];
      const form = formOf(Object.fromEntries(Object.entries(own).filter(([name]) => FIELDS.includes(name))));
      try {
        const answer = await ask(own.change, { body: form, keepalive: true });
        // What was moved since is still to be kept.
        const kept = this.due.size ? "…" : "Kept.";
        this.said = answer.ok ? kept : ((await answer.json()) as { problem: string }).problem;
      } catch (failed) {
        this.said = sentenceOf(failed);
      }
    },
  }));
}

const given = givenIn<FaceDocument>("face-document");
if (given) table(given);
