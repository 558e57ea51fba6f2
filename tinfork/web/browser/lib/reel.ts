// The reference picture of a video that was brought in, shown in time with the sound.
import { element } from "./page.ts";

const APART = 0.12;

interface ReelClip {
  url: string;
  from: number;
  to: number;
  shift: number;
}

// What a reel needs to know of a sound: where the clips lie, and which of their sounds have a picture.
interface Filmed {
  tracks: { clips: { sound: number; start: number; frames: number; offset: number }[] }[];
  sounds: Record<number, { reel: string | null }>;
}

export class Reel {
  readonly place: HTMLElement;
  readonly #clips: ReelClip[];
  readonly #video = element("video", { muted: true, playsInline: true });
  #loaded = "";

  // The first clip whose video has a picture is shown.
  constructor(place: HTMLElement, sound: Filmed, fps: number) {
    this.place = place;
    this.#clips = sound.tracks
      .flatMap((track) => track.clips)
      .flatMap((clip) => {
        const url = sound.sounds[clip.sound].reel;
        return url ? [{ url, from: clip.start / fps, to: (clip.start + clip.frames) / fps, shift: (clip.offset - clip.start) / fps }] : [];
      });
    place.hidden = !this.#clips.length;
    place.querySelector("video")?.remove();
    if (!this.#clips.length) return;
    this.#video.setAttribute("aria-label", "Reference picture");
    place.append(this.#video);
  }

  async show(time: number, playing: boolean, speed: number): Promise<void> {
    if (!this.#clips.length) return;
    const video = this.#video;
    const clip = this.#clips.find((one) => one.from <= time && time < one.to) ?? this.#clips[0];
    await this.#load(clip.url);
    const wanted = Math.max(0, time + clip.shift);
    this.place.dataset.time = video.currentTime.toFixed(3);
    const begin = () => {
      if (video.paused) video.play().catch(() => {});
    };
    if (playing && Math.abs(video.currentTime - wanted) < APART) {
      video.playbackRate = speed;
      begin();
    } else {
      if (!playing) video.pause();
      if (!video.seeking && Math.abs(video.currentTime - wanted) > 0.004) video.currentTime = wanted;
      if (playing) begin();
    }
  }

  // Fetched whole, so that any frame can be gone to at once.
  async #load(url: string): Promise<void> {
    if (this.#loaded === url) return;
    this.#loaded = url;
    const response = await fetch(url);
    if (!response.ok || this.#loaded !== url) return;
    if (this.#video.src) URL.revokeObjectURL(this.#video.src);
    this.#video.src = URL.createObjectURL(await response.blob());
  }
}
