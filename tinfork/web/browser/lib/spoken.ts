// A sound that is played, and which drawing is shown on each of its frames.
import { frameAt } from "./store/clock.ts";

// [frame, frames, drawing]
export type Spoken = [number, number, string];

export interface Track {
  sound: string;
  fps: number;
  exposures: Spoken[];
}

// The drawing on a frame: of the exposure there, the last one before it, or the first.
export const shownOn = (exposures: readonly Spoken[], frame: number): string | undefined => (exposures.findLast(([first]) => first <= frame) ?? exposures[0])?.[2];

// Play a track. show is told the drawing of every picture, ended when it is over or stopped. What stops it is given back.
export async function speak({ sound, fps, exposures }: Track, show: (drawing: string) => void, ended: () => void): Promise<() => void> {
  const audio = new Audio(sound);
  let over = false;
  const stop = () => {
    if (over) return;
    over = true;
    audio.pause();
    ended();
  };
  audio.addEventListener("ended", stop);
  await audio.play();
  const follow = () => {
    if (over) return;
    show(shownOn(exposures, frameAt(audio.currentTime, fps)) ?? "");
    requestAnimationFrame(follow);
  };
  follow();
  return stop;
}
