// A sound that is played, and which drawing is shown on each of its frames.
import { shownOn } from "../face/lying.js";
import { frameAt } from "./clock.js";

/** Play a track: sound is where it is heard, exposures are [frame, frames, drawing]. show is told the drawing of every
 * picture, ended when it is over or stopped. What stops it is given back. */
export async function speak({ sound, fps, exposures }, show, ended) {
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
    show(shownOn(exposures, frameAt(audio.currentTime, fps)));
    requestAnimationFrame(follow);
  };
  follow();
  return stop;
}
