// The reference picture of a video that was brought in, shown in time with the sound.
const APART = 0.12;

export class Reel {
  // sound: the arrangement; the first clip whose video has a picture is shown.
  constructor(place, sound, fps) {
    this.place = place;
    const clips = sound.tracks.flatMap((track) => track.clips);
    this.clips = clips
      .filter((clip) => sound.sounds[clip.sound].reel)
      .map((clip) => ({ ...clip, url: sound.sounds[clip.sound].reel, from: clip.start / fps, to: (clip.start + clip.frames) / fps, shift: (clip.offset - clip.start) / fps }));
    place.hidden = !this.clips.length;
    if (!this.clips.length) return;
    this.video = document.createElement("video");
    this.video.muted = true;
    this.video.playsInline = true;
    this.video.setAttribute("aria-label", "Reference picture");
    place.append(this.video);
  }

  async show(time, playing, speed) {
    if (!this.clips.length) return;
    const clip = this.clips.find((one) => one.from <= time && time < one.to) ?? this.clips[0];
    await this.#load(clip.url);
    const wanted = Math.max(0, time + clip.shift);
    this.place.dataset.time = this.video.currentTime.toFixed(3);
    if (playing && Math.abs(this.video.currentTime - wanted) < APART) {
      this.video.playbackRate = speed;
      if (this.video.paused) this.video.play().catch(() => {});
    } else {
      if (!playing) this.video.pause();
      if (!this.video.seeking && Math.abs(this.video.currentTime - wanted) > 0.004) this.video.currentTime = wanted;
      if (playing && this.video.paused) this.video.play().catch(() => {});
    }
  }

  // Fetched whole, so that any frame can be gone to at once.
  async #load(url) {
    if (this.loaded === url) return;
    this.loaded = url;
    const response = await fetch(url);
    if (!response.ok || this.loaded !== url) return;
    if (this.video.src) URL.revokeObjectURL(this.video.src);
    this.video.src = URL.createObjectURL(await response.blob());
  }
}
