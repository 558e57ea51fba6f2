// The camera's last pictures under each other: each one before is fainter.
import { get, post } from "../lib/edits.js";

const DEPTH = 3;

export class Onion {
  // camera: {takeUrl, takenUrl, pictures}; place, skins, of: where they are shown; start: the scene's start frame.
  constructor(camera, { place, skins, of }, start) {
    this.camera = camera;
    this.skins = skins;
    this.of = of;
    this.start = start;
    this.taken = new Map();
    place.hidden = false;
  }

  async load() {
    this.#heard(await get(this.camera.takenUrl));
  }

  // Have a frame taken; an Error that says why it was not.
  async take(frame) {
    this.#heard(await post(this.camera.takeUrl, { frame }));
  }

  #heard({ problem, taken }) {
    if (problem) throw new Error(problem);
    for (const [frame, takes] of Object.entries(taken)) this.taken.set(Number(frame), takes);
  }

  // The last pictures before a frame, the nearest on top.
  show(frame) {
    const found = [];
    for (let one = frame - 1; one >= 0 && found.length < DEPTH; one -= 1) if (this.taken.has(one)) found.push(one);
    const pictures = found.map((one, depth) => {
      const address = `${this.camera.pictures}${one}.jpg?${this.taken.get(one)}`;
      const known = [...this.skins.children].find((image) => image.getAttribute("src") === address);
      const image = known ?? Object.assign(new Image(), { src: address, alt: `Frame ${one + this.start}` });
      image.dataset.depth = String(depth);
      return image;
    });
    this.skins.replaceChildren(...pictures.toReversed());
    this.of.textContent = found.length ? `camera: ${found.map((one) => one + this.start).join(", ")}` : "camera: nothing taken before this frame";
  }
}
