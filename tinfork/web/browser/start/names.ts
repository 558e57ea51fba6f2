// Names of who speaks, as they are typed and as files are called; pages/start.py guesses alike.

// The names in a field, without doubles.
export function namesIn(text: string): string[] {
  return [...new Set(text.split(",").map((name) => name.trim()).filter(Boolean))];
}

// Whose recording a file is by its name: the one name there is, or the one in it; "" where that is not certain.
export function guessed(file: string, names: readonly string[]): string {
  if (names.length === 1) return names[0];
  const found = names.filter((name) => file.toLowerCase().includes(name.toLowerCase()));
  return found.length === 1 ? found[0] : "";
}
