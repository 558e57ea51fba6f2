// A face: layers of pictures and the mouth's anchor, placed by dragging or by key. What is moved is kept at once.
import { ask } from "../lib/edits.js";
import { layerTransform, mouthTransform, moved, moveOf } from "./lying.js";

const SVG = "http://www.w3.org/2000/svg";
const REST = 350; // ms without a move, after which it is kept
const FIELDS = ["x", "y", "scale", "size", "turn"];

function group(kind) {
  const made = document.createElementNS(SVG, "g");
  made.dataset.part = kind;
  return made;
}

function pictureOf(layer) {
  const image = document.createElementNS(SVG, "image");
  const { width, height } = layer;
  for (const [name, value] of Object.entries({ href: layer.href, x: -width / 2, y: -height / 2, width, height })) {
    image.setAttribute(name, String(value));
  }
  return image;
}

document.addEventListener("alpine:init", () => {
  const given = document.getElementById("face-document");
  if (!given) return;
  const face = JSON.parse(given.textContent);
  window.Alpine.data("faceTable", () => ({
    parts: { mouth: face.mouth, ...Object.fromEntries(face.layers.map((layer) => [String(layer.id), layer])) },
    mouths: face.mouths,
    chosen: "mouth",
    done: [],
    due: new Set(),
    said: "",

    get steps() {
      return this.done.length;
    },
    get where() {
      const { x, y, turn, scale, size } = this.parts[this.chosen];
      return `${x.toFixed(1)} across · ${y.toFixed(1)} down · ${((scale ?? size) * 100).toFixed(0)}% · ${turn.toFixed(0)}°`;
    },
    get mayEdit() {
      return "mayEdit" in this.$root.dataset;
    },

    init() {
      const svg = this.$root.querySelector("#face");
      svg.setAttribute("viewBox", face.view.join(" "));
      const head = group("head");
      head.innerHTML = face.head;
      const layers = face.layers.filter((layer) => !layer.hidden);
      const drawn = (layer) => {
        const made = group(String(layer.id));
        made.append(pictureOf(layer));
        return made;
      };
      svg.append(head, ...layers.filter((one) => !one.inFront).map(drawn), group("mouth"), ...layers.filter((one) => one.inFront).map(drawn));
      this.svg = svg;
      this.mouthShown(0);
      this.draw();
      svg.dataset.ready = "";
      addEventListener("pagehide", () => this.keepAll());
    },
    draw() {
      for (const made of this.svg.querySelectorAll("[data-part]")) {
        const part = this.parts[made.dataset.part];
        if (part) made.setAttribute("transform", "size" in part ? mouthTransform(part) : layerTransform(part));
        made.classList.toggle("chosen", made.dataset.part === this.chosen);
        // What is shown in turn with others is seen while it is placed.
        made.setAttribute("display", part?.inTurn && made.dataset.part !== this.chosen ? "none" : "inline");
      }
    },
    mouthShown(at) {
      this.svg.querySelector("[data-part=mouth]").innerHTML = `${this.mouths[at].svg}<path class="anchor" d="M-6 0H6M0 -6V6"/>`;
    },
    show(event) {
      this.mouthShown(Number(event.target.value));
    },
    choose(event) {
      this.chosen = event.target.value;
      this.draw();
    },

    change(by, goesOn = false) {
      if (!this.mayEdit) return;
      if (!goesOn) this.done.push([this.chosen, { ...this.parts[this.chosen] }]);
      this.parts[this.chosen] = moved(this.parts[this.chosen], by);
      this.draw();
      this.later();
    },
    size(times) {
      this.change({ x: 0, y: 0, times, turn: 0 });
    },
    rotate(turn) {
      this.change({ x: 0, y: 0, times: 1, turn });
    },
    usual() {
      this.chosen = "mouth";
      this.$refs.chosen.value = "mouth";
      this.done.push(["mouth", { ...this.parts.mouth }]);
      Object.assign(this.parts.mouth, face.usual);
      this.draw();
      this.later();
    },
    undo() {
      const last = this.done.pop();
      if (!last) return;
      this.chosen = last[0];
      this.$refs.chosen.value = last[0];
      this.parts[last[0]] = last[1];
      this.draw();
      this.later();
    },
    key(event) {
      if (event.ctrlKey && event.key === "z") this.undo();
      else {
        const by = moveOf(event.key, event.shiftKey);
        if (!by) return;
        this.change(by);
      }
      event.preventDefault();
    },

    at(event) {
      const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.svg.getScreenCTM().inverse());
      return [point.x, point.y];
    },
    grab(event) {
      const part = event.target.closest("[data-part]")?.dataset.part;
      if (!this.mayEdit || event.button !== 0) return;
      if (part && this.parts[part]) {
        this.chosen = part;
        this.$refs.chosen.value = part;
        this.draw();
      }
      this.svg.setPointerCapture(event.pointerId);
      this.from = this.at(event);
      this.held = false;
    },
    drag(event) {
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
    async keep(part) {
      const own = this.parts[part];
      const form = new FormData();
      for (const name of FIELDS) if (name in own) form.append(name, String(own[name]));
      try {
        const answer = await ask(own.change, { body: form, keepalive: true });
        this.said = answer.ok ? "Kept." : (await answer.json()).problem;
      } catch (failed) {
        this.said = failed.message;
      }
    },
  }));
});
