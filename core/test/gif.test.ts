import fc from 'fast-check';
import { decompressFrames, parseGIF } from 'gifuct-js';
import { GifReader } from 'omggif';
import { describe, expect, test } from 'vitest';
import { encodeFrame, joinGif, type Patch } from '../src/offer/index.ts';

const palette = (n: number) => Array.from({ length: n }, (_, i) => [i, 255 - i, (i * 7) % 256] as const);

const pictures = fc
  .record({
    w: fc.integer({ min: 1, max: 90 }),
    h: fc.integer({ min: 1, max: 60 }),
    colors: fc.integer({ min: 2, max: 256 }),
  })
  .chain(({ w, h, colors }) =>
    // Noise fills the table of codes and starts it anew; runs make long strings.
    fc
      .array(fc.tuple(fc.nat(colors - 1), fc.integer({ min: 1, max: 40 })), { minLength: 1, maxLength: 600 })
      .map((runs) => {
        const pixels = new Uint8Array(w * h);
        let at = 0;
        while (at < pixels.length)
          for (const [color, length] of runs)
            for (let i = 0; i < length && at < pixels.length; i++) pixels[at++] = color;
        return { w, h, colors, pixels };
      }),
  );

describe('the writer of GIF89a, read back by two decoders', () => {
  test('every pixel comes back', () => {
    fc.assert(
      fc.property(pictures, ({ w, h, colors, pixels }) => {
        const colorsOf = palette(colors);
        const file = joinGif(w, h, colorsOf, [encodeFrame({ x: 0, y: 0, w, h, pixels }, colors, 100, null)]);
        const rgba = new Uint8Array(w * h * 4);
        new GifReader(file).decodeAndBlitFrameRGBA(0, rgba);
        const [frame] = decompressFrames(parseGIF(file.buffer as ArrayBuffer), true);
        pixels.forEach((p, i) => {
          const wanted = [...(colorsOf[p] ?? []), 255];
          if (wanted.some((v, k) => rgba[i * 4 + k] !== v || frame?.patch[i * 4 + k] !== v))
            throw new Error(`pixel ${i} is not colour ${p}`);
        });
      }),
      { numRuns: 150 },
    );
  });

  test('noise of 256 colours outgrows the table of codes', () => {
    let seed = 7;
    const pixels = Uint8Array.from(
      { length: 200 * 100 },
      () => (seed = (seed * 1103515245 + 12345) & 0x7fffffff) >> 16,
    );
    const file = joinGif(200, 100, palette(256), [encodeFrame({ x: 0, y: 0, w: 200, h: 100, pixels }, 256, 0, null)]);
    const rgba = new Uint8Array(200 * 100 * 4);
    new GifReader(file).decodeAndBlitFrameRGBA(0, rgba);
    expect(pixels.every((p, i) => rgba[i * 4] === p)).toBe(true);
  });

  test('boxes, delays, disposal and the see-through colour stand where the format has them', () => {
    const frame = (patch: Patch, clear: number | null) => encodeFrame(patch, 4, 100, clear);
    const file = joinGif(20, 10, palette(4), [
      frame({ x: 0, y: 0, w: 20, h: 10, pixels: new Uint8Array(200) }, 3),
      frame({ x: 5, y: 2, w: 3, h: 4, pixels: new Uint8Array(12).fill(2) }, null),
    ]);
    // "Header" and "Logical Screen Descriptor" of the specification; no application extension, so it plays once.
    expect(String.fromCharCode(...file.slice(0, 6))).toBe('GIF89a');
    expect([...file.slice(6, 11)]).toEqual([20, 0, 10, 0, 0b10010001]);
    expect(file.at(-1)).toBe(0x3b);
    const reader = new GifReader(file);
    expect(reader.loopCount()).toBe(null);
    expect(reader.frameInfo(0)).toMatchObject({
      x: 0,
      y: 0,
      width: 20,
      height: 10,
      delay: 100,
      disposal: 1,
      transparent_index: 3,
    });
    expect(reader.frameInfo(1)).toMatchObject({ x: 5, y: 2, width: 3, height: 4, delay: 100, transparent_index: null });
  });
});
