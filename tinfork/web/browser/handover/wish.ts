// What is asked for, as the server takes it, and where faces stand when nobody placed them.

const whole = (text: string): number | null => {
  const number = Number.parseInt(text, 10);
  return Number.isFinite(number) ? number : null;
};

// Where a face stands in the picture: its middle and its height, in the picture's heights.
export interface Spot {
  x: number;
  y: number;
  height: number;
}

// The fields as they are filled in.
export interface Form {
  kinds: string[];
  scenes: string[];
  // The number of one that was shown for review; "" for the scene as it is.
  version: string;
  // Whether films of several scenes are one, with slates between them; and how folders are called in one ZIP of all.
  joined: boolean;
  slates: boolean;
  folders: string;
  characters: string[];
  together: boolean;
  shows: string;
  spots: Record<string, Spot>;
  first: string;
  end: string;
  width: string;
  height: string;
  clear: boolean;
  background: string;
  burnt: string[];
  // What each format can be asked.
  fields: Record<string, Field[]>;
  film: boolean;
  backdrop: boolean;
  // Of each format with options what was filled in, by their names.
  options: Record<string, Record<string, string>>;
}

// A field that a format asks for; see tinfork.core.formats.options.
export interface Field {
  name: string;
  kind: "text" | "number";
  default: string | number;
  title: string;
  about: string;
}

// What the chosen formats are asked; what is no whole number is sent as it was typed, to be refused with a sentence.
function optionsOf({ kinds, options, fields }: Form): Record<string, Record<string, string | number>> {
  const value = (kind: string, { name, kind: type }: Field) => (type === "number" ? (whole(options[kind][name]) ?? options[kind][name]) : options[kind][name]);
  const asked = kinds.filter((kind) => fields[kind]?.length);
  return Object.fromEntries(asked.map((kind) => [kind, Object.fromEntries(fields[kind].map((field) => [field.name, value(kind, field)]))]));
}

export function wishOf(form: Form) {
  const placed = form.together && form.shows === "face" ? Object.entries(form.spots) : [];
  return {
    kinds: [...form.kinds],
    scenes: form.scenes.map(Number),
    version: form.scenes.length ? 0 : Number(form.version),
    joined: form.joined && form.scenes.length > 0,
    slates: form.slates,
    folders: form.folders.trim(),
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
    options: optionsOf(form),
    spots: placed.map(([id, { x, y, height }]) => ({ character: Number(id), x, y, height })),
  };
}

// As tinfork.core.shot.stage.side_by_side: ratio is the picture's, shape a face's, width by height.
export function sideBySide(characters: readonly string[], ratio: number, shape: number): Record<string, Spot> {
  const wide = ratio / characters.length;
  const height = Math.min(1, wide / shape);
  return Object.fromEntries(characters.map((id, at) => [id, { x: (at + 0.5) * wide, y: 0.5, height }]));
}
