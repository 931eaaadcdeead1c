/** What can be drawn at a phase. */
export interface Pictured {
  pictureAt(phase: number, width: number, height: number): ImageData;
}
const [WIDTH, HEIGHT, FRAMES] = [720, 540, 32];

function keep(blob: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name.replace(/[^\p{L}\p{N} .,-]/gu, '').trim() || 'mode';
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** Saves one turn of the phase as an animated picture that goes on for ever. @param speed turns a second */
export async function saveGif(picture: Pictured, name: string, speed: number): Promise<void> {
  const { GIFEncoder, quantize, applyPalette } = await import('gifenc');
  const gif = GIFEncoder();
  // Hundredths of a second are all that the format knows, and fewer than two are not kept to.
  const delay = Math.max(20, Math.round(1000 / speed / FRAMES / 10) * 10);
  for (let k = 0; k < FRAMES; k++) {
    const { data } = picture.pictureAt((2 * Math.PI * k) / FRAMES, WIDTH, HEIGHT);
    const palette = quantize(data, 64);
    gif.writeFrame(applyPalette(data, palette), WIDTH, HEIGHT, { palette, delay });
    // The page stays awake.
    await new Promise((r) => setTimeout(r));
  }
  gif.finish();
  keep(new Blob([gif.bytes() as Uint8Array<ArrayBuffer>], { type: 'image/gif' }), `${name}.gif`);
}

export function savePng(picture: Pictured, name: string, phase: number): void {
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [2 * WIDTH, 2 * HEIGHT];
  canvas.getContext('2d')!.putImageData(picture.pictureAt(phase, canvas.width, canvas.height), 0, 0);
  canvas.toBlob((blob) => blob && keep(blob, `${name}.png`));
}
