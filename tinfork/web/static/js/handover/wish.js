// What is asked for, as the server takes it, and where faces stand when nobody placed them.

const whole = (text) => {
  const number = Number.parseInt(text, 10);
  return Number.isFinite(number) ? number : null;
};

/** @param {any} form the fields as they are filled in */
export function wishOf(form) {
  const placed = form.together && form.shows === "face" ? Object.entries(form.spots) : [];
  return {
    kinds: [...form.kinds],
    scenes: form.scenes.map(Number),
    characters: form.characters.map(Number),
    together: form.together,
    first: form.scenes.length ? null : whole(form.first),
    end: form.scenes.length ? null : whole(form.end),
    width: whole(form.width) ?? 0,
    height: whole(form.height) ?? 0,
    background: form.clear ? "" : form.background,
    mouth: form.shows === "mouth",
    burnt: [...form.burnt],
    film: form.film,
    backdrop: form.backdrop,
    pattern: form.pattern,
    spots: placed.map(([id, { x, y, height }]) => ({ character: Number(id), x, y, height })),
  };
}

// As tinfork.core.shot.stage.side_by_side: ratio is the picture's, shape a face's, width by height.
export function sideBySide(characters, ratio, shape) {
  const wide = ratio / characters.length;
  const height = Math.min(1, wide / shape);
  return Object.fromEntries(characters.map((id, at) => [id, { x: (at + 0.5) * wide, y: 0.5, height }]));
}
