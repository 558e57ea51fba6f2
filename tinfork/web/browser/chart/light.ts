// The light table: one drawing over another, moved until both lie on one anchor.
import { component, fieldOf, givenIn } from "../lib/page.ts";
import { changeDrawing } from "./changing.ts";
import { type Box, boxOf, type Laid, laid, type Lying, overlaid } from "./registration.ts";

const NUDGE = 0.25;
const BLINK = 400;

// change: where it is kept
interface Drawing extends Lying {
  id: number;
  change: string;
}

// What of a picture is drawn, as the browser sees it: its box in pixels of the picture.
async function outline(drawing: Drawing): Promise<Box> {
  const image = new Image();
  image.src = drawing.href;
  await image.decode();
  const side = Math.min(1, 512 / Math.max(drawing.width, drawing.height));
  const canvas = new OffscreenCanvas(Math.ceil(drawing.width * side), Math.ceil(drawing.height * side));
  const context = canvas.getContext("2d");
  if (!context) throw new Error("This browser cannot draw.");
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  const { data } = context.getImageData(0, 0, canvas.width, canvas.height);
  return boxOf(data, canvas.width, canvas.height, side);
}

function table(drawings: Drawing[]): void {
  component("lightTable", () => ({
    drawings,
    id: drawings[0].id,
    underId: drawings[1].id,
    strength: 0.4,
    blinking: false,
    shown: true,
    moved: false,
    said: "Arrow keys move it, Shift ten times as far; + and - size it, [ and ] turn it.",

    drawing(id: number): Drawing {
      return this.drawings.find((one) => one.id === id) ?? this.drawings[0];
    },
    get chosen(): Drawing {
      return this.drawing(this.id);
    },
    get over(): Laid {
      return laid(this.chosen);
    },
    get under(): Laid {
      return laid(this.drawing(this.underId));
    },
    get overShown(): number {
      return this.blinking && !this.shown ? 0 : 1;
    },

    choose(event: Event) {
      this.id = Number(fieldOf(event).value);
      this.moved = false;
    },
    chooseUnder(event: Event) {
      this.underId = Number(fieldOf(event).value);
    },
    nudge(x: number, y: number, by = NUDGE) {
      this.chosen.x -= (x * by) / this.chosen.scale;
      this.chosen.y -= (y * by) / this.chosen.scale;
      this.moved = true;
    },
    size(times: number) {
      this.chosen.scale *= times;
      this.moved = true;
    },
    rotate(by: number) {
      this.chosen.turn += by;
      this.moved = true;
    },
    blink() {
      this.blinking = !this.blinking;
      const turn = () => {
        if (!this.blinking) return;
        this.shown = !this.shown;
        setTimeout(turn, BLINK);
      };
      turn();
    },
    async align() {
      const beneath = this.drawing(this.underId);
      const { x, y } = overlaid(this.chosen, await outline(this.chosen), beneath, await outline(beneath));
      const far = Math.hypot(x - this.chosen.x, y - this.chosen.y) * this.chosen.scale;
      Object.assign(this.chosen, { x, y });
      this.moved = far > 0.01;
      this.said = `It lay ${far.toFixed(1)} units off; a mouth at rest is 84 wide.`;
    },
    key(event: KeyboardEvent) {
      const arrows: Record<string, [number, number] | undefined> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
      const arrow = arrows[event.key];
      if (arrow) this.nudge(arrow[0], arrow[1], event.shiftKey ? 10 * NUDGE : NUDGE);
      else if (event.key === "+") this.size(1.02);
      else if (event.key === "-") this.size(0.98);
      else if (event.key === "[") this.rotate(-1);
      else if (event.key === "]") this.rotate(1);
      else if (event.key.toLowerCase() === "b") this.blink();
      else return;
      event.preventDefault();
    },
    async keep() {
      const { x, y, scale, turn, change } = this.chosen;
      this.said = await changeDrawing(change, { x, y, scale, turn }, "It cannot lie there; move it back a little.");
    },
  }));
}

const given = givenIn<Drawing[]>("light-table-drawings");
if (given) table(given);
