import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { decompressFrames, parseGIF } from 'gifuct-js';
import { GifReader } from 'omggif';
import { beforeAll, describe, expect, test } from 'vitest';
import {
  figuresAt,
  hexOf,
  languages,
  layoutFace,
  plainStyle,
  timerFaces,
  timerUnits,
  unitLabel,
  wholeFace,
  type Box,
  type TimerFace,
} from '@ascenso/core';
import { drawFace } from '../src/timer/drawing.ts';
import { registerFonts } from '../src/timer/fonts.ts';
import { timerGif, type TimerAsk } from '../src/timer/index.ts';

const DAY = 86_400;
const face = (name: keyof typeof timerFaces, more: Partial<TimerFace> = {}): TimerFace =>
  wholeFace({ ...timerFaces[name], fine: false, ...more }, (c) => hexOf(c, plainStyle));
const ask = (f: TimerFace, seconds: number, more: Partial<TimerAsk> = {}): Promise<Uint8Array> =>
  timerGif({
    face: f,
    language: 'en',
    left: seconds * 1000,
    after: { kind: 'zeros' },
    picture: async () => undefined,
    ...more,
  });

/** Frame n as a reader shows it, with everything before it, by omggif: RGBA. */
function shown(gif: Uint8Array, n: number): { width: number; height: number; rgba: Uint8Array } {
  const reader = new GifReader(gif);
  const rgba = new Uint8Array(reader.width * reader.height * 4);
  for (let i = 0; i <= n; i++) reader.decodeAndBlitFrameRGBA(i, rgba);
  return { width: reader.width, height: reader.height, rgba };
}

/** The mean difference of a box of two pictures per channel, 0 to 255. */
function differs(a: ArrayLike<number>, b: ArrayLike<number>, box: Box, width: number): number {
  let sum = 0;
  for (let y = box.y; y < box.y + box.h; y++)
    for (let x = box.x; x < box.x + box.w; x++)
      for (let k = 0; k < 3; k++)
        sum += Math.abs((a[(y * width + x) * 4 + k] ?? 0) - (b[(y * width + x) * 4 + k] ?? 0));
  return sum / (box.w * box.h * 3);
}

/** What stands in a place of a picture: the figure whose separately drawn still is nearest by far. */
function read(rgba: Uint8Array, stills: readonly Uint8ClampedArray[], box: Box, width: number): string {
  const by = stills
    .map((still, figure) => ({ figure, off: differs(rgba, still, box, width) }))
    .sort((a, b) => a.off - b.off);
  const [best, next] = by;
  if (!best || !next || best.off * 3 > next.off)
    throw new Error(`No figure can be made out: ${JSON.stringify(by.slice(0, 3))}`);
  return String(best.figure);
}

/** All figures of a frame, read off the picture. */
function figuresIn(f: TimerFace, rgba: Uint8Array): Record<string, string> {
  const layout = layoutFace(f, 1, 2);
  const none = { day: '', hour: '', minute: '', second: '' };
  // Each still is a whole face drawn anew by the canvas, in all colours, with one figure everywhere.
  const stills = Array.from({ length: 10 }, (_, n) => {
    const same = Object.fromEntries(timerUnits.map((u) => [u, String(n).repeat(2)])) as Record<'day', string> &
      typeof none;
    return drawFace({ face: f, layout, scale: 1 }, same, none);
  });
  return Object.fromEntries(
    layout.units.map((u) => [u.unit, u.figures.map((box) => read(rgba, stills, box, layout.width)).join('')]),
  );
}

beforeAll(registerFonts);

describe('a timer as its readers see it', () => {
  const left = 2 * DAY + 5 * 3600 + 13 * 60 + 1;

  test.each(Object.keys(timerFaces) as (keyof typeof timerFaces)[])(
    '%s: 60 frames of a second, the right figures in frames 0, 1 and 59, by two decoders',
    async (name) => {
      const f = face(name);
      const gif = await ask(f, left);
      const reader = new GifReader(gif);
      expect([reader.numFrames(), reader.loopCount()]).toEqual([60, null]);
      expect(Array.from({ length: 60 }, (_, i) => reader.frameInfo(i).delay)).toEqual(
        Array.from({ length: 60 }, () => 100),
      );
      const other = decompressFrames(parseGIF(gif.slice().buffer), true);
      expect(other.map((o) => [o.delay, o.disposalType])).toEqual(other.map(() => [1000, 1]));
      expect({ ...other[0]?.dims }).toEqual({ top: 0, left: 0, width: reader.width, height: reader.height });
      for (const n of [0, 1, 59]) expect([n, figuresIn(f, shown(gif, n).rgba)]).toEqual([n, figuresAt(left - n, 2)]);
      // Both readers see the same pixels to the end.
      const canvas = new Uint8Array(reader.width * reader.height * 4);
      for (const o of other)
        for (let y = 0; y < o.dims.height; y++)
          for (let x = 0; x < o.dims.width; x++) {
            const from = (y * o.dims.width + x) * 4;
            if (o.patch[from + 3] === 0) continue;
            canvas.set(o.patch.subarray(from, from + 4), ((o.dims.top + y) * reader.width + o.dims.left + x) * 4);
          }
      expect(
        differs(shown(gif, 59).rgba, canvas, { x: 0, y: 0, w: reader.width, h: reader.height }, reader.width),
      ).toBe(0);
      expect(gif.length).toBeLessThan(60_000);
    },
  );

  test('ImageMagick counts the same frames, delays and sizes', async () => {
    const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-timer-'));
    const file = path.join(folder, 'timer.gif');
    writeFileSync(file, await ask(face('Board', { fine: true }), left));
    const told = execFileSync('identify', ['-format', '%m %W %H %T %D\n', file], { encoding: 'utf8' })
      .trim()
      .split('\n');
    expect(told).toHaveLength(60);
    // From the second frame on, what is not covered stays.
    expect(new Set(told)).toEqual(new Set(['GIF 960 192 100 None']));
    rmSync(folder, { recursive: true });
  });

  test('the figures are right whenever it is opened', async () => {
    const f = face('Sheet');
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 60, max: 99 * DAY }), fc.integer({ min: 0, max: 59 }), async (seconds, n) => {
        expect(figuresIn(f, shown(await ask(f, seconds), n).rgba)).toEqual(figuresAt(seconds - n, 2));
      }),
      { numRuns: 25 },
    );
  });

  test('its end falls into it: it counts to zero and says that it is over, and stays so', async () => {
    const f = face('Board');
    const gif = await ask(f, 5, { after: { kind: 'message', text: 'The kit offer has closed.' } });
    expect(new GifReader(gif as Buffer).numFrames()).toBe(6);
    expect(figuresIn(f, shown(gif, 4).rgba)).toEqual(figuresAt(1, 2));
    const over = await ask(f, -1, { after: { kind: 'message', text: 'The kit offer has closed.' } });
    expect(new GifReader(over as Buffer).numFrames()).toBe(1);
    const end = shown(gif, 5);
    expect(differs(end.rgba, shown(over, 0).rgba, { x: 0, y: 0, w: end.width, h: end.height }, end.width)).toBe(0);
    // And with zeros it simply stops there.
    const zeros = await ask(f, 2);
    expect(new GifReader(zeros as Buffer).numFrames()).toBe(3);
    expect(figuresIn(f, shown(zeros, 2).rgba)).toEqual({ day: '00', hour: '00', minute: '00', second: '00' });
  });

  test('its end can be another picture, drawn whole into its size', async () => {
    const f = face('Board');
    const { createCanvas } = await import('@napi-rs/canvas');
    const red = createCanvas(20, 10);
    const g = red.getContext('2d');
    g.fillStyle = '#c01010';
    g.fillRect(0, 0, 20, 10);
    const gif = await ask(f, 2, {
      after: { kind: 'picture', file: 'red' },
      picture: async () => red.toBuffer('image/png'),
    });
    const { rgba, width, height } = shown(gif, 2);
    const at = (x: number, y: number) => [...rgba.subarray((y * width + x) * 4, (y * width + x) * 4 + 3)];
    const middle = at(width / 2, height / 2);
    // In its own colours; beside it that of the cells.
    expect(Math.abs((middle[0] ?? 0) - 0xc0) + Math.abs((middle[1] ?? 0) - 0x10)).toBeLessThan(16);
    expect(at(4, height / 2)).toEqual([...Buffer.from(f.cell.slice(1), 'hex')]);
  });

  test('over a hundred days a third figure finds room; over 999 days nothing moves', async () => {
    const f = face('Press');
    const gif = new GifReader(await ask(f, 140 * DAY));
    expect([gif.width, gif.height]).toEqual([480, 96]);
    const layout = layoutFace(f, 1, 3);
    const boxes = layout.units.flatMap((u) => u.figures);
    for (const b of boxes) expect(b.x >= 0 && b.x + b.w <= layout.width && b.y + b.h <= layout.height).toBe(true);
    for (const [i, b] of boxes.slice(1).entries())
      expect(b.x).toBeGreaterThanOrEqual((boxes[i]?.x ?? 0) + (boxes[i]?.w ?? 0));
    expect(new GifReader((await ask(f, 2000 * DAY)) as Buffer).numFrames()).toBe(1);
  });

  test('a see-through ground lets nothing but the cells be drawn, to the last frame', async () => {
    const f = face('Board');
    const { rgba, width, height } = shown(await ask(f, left), 59);
    const layout = layoutFace(f, 1, 2);
    const inCell = (x: number, y: number) =>
      layout.units.some((u) => u.cells.some((c) => x >= c.x && x < c.x + c.w && y >= c.y && y < c.y + c.h));
    let outside = 0;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) if (!inCell(x, y) && rgba[(y * width + x) * 4 + 3] !== 0) outside++;
    expect(outside).toBe(0);
    const [cell] = layout.units.flatMap((u) => u.cells);
    expect(rgba[(Math.round((cell?.h ?? 0) / 2) * width + (cell?.x ?? 0) + 3) * 4 + 3]).toBe(255);
  });

  test.each(languages)(
    'labels in %s have every letter in every font, and are forms of their number',
    async (language) => {
      for (const name of Object.keys(timerFaces) as (keyof typeof timerFaces)[]) {
        const f = face(name, { language });
        const layout = layoutFace(f, 1, 2);
        const draw = (label: string) =>
          drawFace({ face: f, layout, scale: 1 }, null, { day: label, hour: label, minute: label, second: label });
        const empty = draw('');
        const [first] = layout.units;
        // A font without a letter draws an empty box for it, the same as for a letter that no font has.
        const missing = draw('\u{10ffff}');
        for (const letter of new Set(
          timerUnits.flatMap((u) => [1, 2, 5].flatMap((n) => [...unitLabel(n, u, language)])),
        )) {
          if (letter.trim() === '') continue;
          const drawn = draw(letter);
          expect(differs(drawn, empty, first?.label as Box, layout.width), letter).toBeGreaterThan(0);
          expect(differs(drawn, missing, first?.label as Box, layout.width), letter).toBeGreaterThan(0);
        }
      }
      const one = await ask(face('Sheet', { language }), DAY + 3600 + 60 + 1);
      const two = await ask(face('Sheet', { language }), 2 * DAY + 2 * 3600 + 120 + 2);
      const labels = layoutFace(face('Sheet'), 1, 2).units.map((u) => u.label as Box);
      const changed = labels.map((b) => differs(shown(one, 0).rgba, shown(two, 0).rgba, b, 480) > 0);
      expect(changed).toEqual(timerUnits.map((u) => unitLabel(1, u, language) !== unitLabel(2, u, language)));
    },
  );
});
