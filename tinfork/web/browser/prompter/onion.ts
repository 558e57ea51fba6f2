// The camera's last pictures under each other: each one before is fainter.
import { get, type Or, post } from "../lib/store/requests.ts";

const DEPTH = 3;

export interface Camera {
  takeUrl: string;
  takenUrl: string;
  pictures: string;
}

// Of each frame how often it was taken.
type Taken = Or<{ taken: Record<string, number> }>;

export class Onion {
  readonly camera: Camera;
  readonly skins: HTMLElement;
  readonly of: HTMLElement;
  readonly start: number;
  readonly taken = new Map<number, number>();

  // place, skins, of: where they are shown; start: the scene's start frame.
  constructor(camera: Camera, { place, skins, of }: { place: HTMLElement; skins: HTMLElement; of: HTMLElement }, start: number) {
    this.camera = camera;
    this.skins = skins;
    this.of = of;
    this.start = start;
    place.hidden = false;
  }

  async load(): Promise<void> {
    this.#heard(await get<Taken>(this.camera.takenUrl));
  }

  // Have a frame taken; an Error that says why it was not.
  async take(frame: number): Promise<void> {
    this.#heard(await post<Taken>(this.camera.takeUrl, { frame }));
  }

  #heard({ problem, taken = {} }: Taken) {
    if (problem) throw new Error(problem);
    for (const [frame, takes] of Object.entries(taken)) this.taken.set(Number(frame), takes);
  }

  // The last pictures before a frame, the nearest on top.
  show(frame: number): void {
    const found: number[] = [];
    for (let one = frame - 1; one >= 0 && found.length < DEPTH; one -= 1) if (this.taken.has(one)) found.push(one);
    const pictures = found.map((one, depth) => {
      const address = `${this.camera.pictures}${one}.jpg?${this.taken.get(one)}`;
      const known = [...this.skins.querySelectorAll("img")].find((image) => image.getAttribute("src") === address);
      const image = known ?? Object.assign(new Image(), { src: address, alt: `Frame ${one + this.start}` });
      image.dataset.depth = String(depth);
      return image;
    });
    this.skins.replaceChildren(...pictures.toReversed());
    this.of.textContent = found.length ? `camera: ${found.map((one) => one + this.start).join(", ")}` : "camera: nothing taken before this frame";
  }
}
