// The time under the picture: pressed or dragged to go there.
import { drag } from "../lib/drag.ts";
import { $ } from "../lib/page.ts";

// frames(): how many it stands for; go(frame).
export function pressTime(frames: () => number, go: (frame: number) => void): void {
  const goThere = (at: PointerEvent) => {
    const box = $("time").getBoundingClientRect();
    go(Math.floor((frames() * (at.clientX - box.left)) / box.width));
  };
  $("time").addEventListener("pointerdown", (event) => {
    if ((event.target as Element).closest("button")) return;
    goThere(event);
    drag($("time"), event, goThere);
  });
}
