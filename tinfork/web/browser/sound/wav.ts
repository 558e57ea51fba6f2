// Samples as a WAV file: mono, 16 bits.
const HEAD = 44; // bytes
const FULL = 0x7fff;

export function wavOf(blocks: readonly Float32Array[], rate: number): ArrayBuffer {
  const bytes = 2 * blocks.reduce((sum, block) => sum + block.length, 0);
  const view = new DataView(new ArrayBuffer(HEAD + bytes));
  const text = (at: number, letters: string) => [...letters].forEach((letter, i) => view.setUint8(at + i, letter.charCodeAt(0)));
  text(0, "RIFF");
  view.setUint32(4, HEAD - 8 + bytes, true);
  text(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, 2 * rate, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  text(36, "data");
  view.setUint32(40, bytes, true);
  let at = HEAD;
  for (const block of blocks) {
    for (const sample of block) {
      view.setInt16(at, Math.round(Math.max(-1, Math.min(1, sample)) * FULL), true);
      at += 2;
    }
  }
  return view.buffer;
}
