import { createRequire } from 'node:module';
import {
  encodeFrame,
  figuresAt,
  joinGif,
  layoutFace,
  timerUnits,
  unitLabel,
  type Box,
  type FaceLayout,
  type Rgb,
  type TimerFace,
  type TimerUnit,
} from '@ascenso/core';
import { drawFace, drawOver, labelsFor, type Drawing } from './drawing.ts';
import { registerFonts } from './fonts.ts';

// A CommonJS module that says it is an ES one: an import reads it differently from tool to tool. Colours are [r, g, b].
const { applyPalette, quantize } = createRequire(import.meta.url)('gifenc') as {
  quantize: (rgba: Uint8ClampedArray, maxColors: number) => number[][];
  applyPalette: (rgba: Uint8ClampedArray, palette: readonly (readonly number[])[]) => Uint8Array;
};

/** A timer plays for a minute: mail programs fetch it anew at the next opening. */
export const FRAMES = 60;
/** Hundredths of a second from frame to frame. */
const SECOND = 100;
/** Colours of a flat face with smooth edges; one index is kept for what shines through. */
const COLORS = 63;
/** Encoded boxes that one face keeps: the sixty of the seconds, and those of minutes as they come. */
const KEPT = 400;

const rgbOf = (hex: string): Rgb => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16)) as unknown as Rgb;
const distance = (a: Rgb, b: Rgb) => (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2;

/** A palette for some pictures that holds given colours exactly. */
function paletteOf(pictures: readonly Uint8ClampedArray[], exact: readonly Rgb[]): Rgb[] {
  const all = new Uint8ClampedArray(pictures.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of pictures) {
    all.set(p, at);
    at += p.length;
  }
  const palette = quantize(all, COLORS - exact.length).map(([r, g, b]): Rgb => [r ?? 0, g ?? 0, b ?? 0]);
  return [...exact, ...palette.filter((c) => exact.every((e) => distance(c, e) > 12))];
}

/** Pixels of a picture that are cut out of it. */
interface Cut {
  box: Box;
  pixels: Uint8Array;
}

function cut(picture: Uint8Array, box: Box, width: number): Cut {
  const pixels = new Uint8Array(box.w * box.h);
  for (let y = 0; y < box.h; y++)
    pixels.set(picture.subarray((box.y + y) * width + box.x, (box.y + y) * width + box.x + box.w), y * box.w);
  return { box, pixels };
}

function paste(picture: Uint8Array, { box, pixels }: Cut, width: number): void {
  for (let y = 0; y < box.h; y++) picture.set(pixels.subarray(y * box.w, (y + 1) * box.w), (box.y + y) * width + box.x);
}

/** Union of boxes. */
function around(boxes: readonly Box[]): Box {
  const x = Math.min(...boxes.map((b) => b.x));
  const y = Math.min(...boxes.map((b) => b.y));
  return { x, y, w: Math.max(...boxes.map((b) => b.x + b.w)) - x, h: Math.max(...boxes.map((b) => b.y + b.h)) - y };
}

const within = (box: Box, { width, height }: FaceLayout): Box => {
  const x = Math.max(0, box.x);
  const y = Math.max(0, box.y);
  return { x, y, w: Math.min(box.w, width - x), h: Math.min(box.h, height - y) };
};

/**
 * Makes the pictures of one face. Figures and labels are drawn once, as indices into one palette; a timer is put together
 * from them, and each later frame holds only the box that changes, kept encoded.
 */
export class Painter {
  readonly #drawing: Drawing;
  readonly #language: string;
  readonly #palette: Rgb[];
  readonly #clear: number | null;
  readonly #empty: Uint8Array;
  /** By unit and place, then by figure. */
  readonly #figures: Record<TimerUnit, Cut[][]>;
  readonly #labels: Record<TimerUnit, Map<string, Cut>>;
  /** What makes up each number of each unit. */
  readonly #shown: Record<TimerUnit, Map<string, readonly Cut[]>> = {
    day: new Map(),
    hour: new Map(),
    minute: new Map(),
    second: new Map(),
  };
  readonly #frames = new Map<string, Uint8Array>();
  readonly #dayFigures: 2 | 3;

  /** `face` has its colours as hex; `language` is that of the labels. */
  constructor(face: TimerFace, scale: 1 | 2, dayFigures: 2 | 3, language: string) {
    registerFonts();
    const layout = layoutFace(face, scale, dayFigures);
    const drawing: Drawing = { face, layout, scale };
    this.#drawing = drawing;
    this.#language = language;
    this.#dayFigures = dayFigures;
    // Every figure in every place, and every form of every label, in ten pictures.
    const numbers = [1, 2, 5, 0, 3, 4, 6, 7, 8, 9];
    const same = (n: number) => Object.fromEntries(timerUnits.map((u) => [u, n])) as Record<TimerUnit, number>;
    const labels = numbers.map((n) => labelsFor(same(n), language));
    const pictures = numbers.map((n, i) => {
      const figures = Object.fromEntries(timerUnits.map((u) => [u, String(n).repeat(3)])) as Record<TimerUnit, string>;
      return drawFace(drawing, figures, labels[i] as (typeof labels)[number]);
    });
    const none = { day: '', hour: '', minute: '', second: '' };
    const empty = drawFace(drawing, null, none);
    const exact = [
      ...new Set([face.figure, face.cell, face.label, ...(face.ground === null ? [] : [face.ground])]),
    ].map(rgbOf);
    this.#palette = paletteOf([empty, ...pictures.slice(0, 4)], exact);
    this.#clear = face.ground === null ? this.#palette.push([0, 0, 0]) - 1 : null;
    const { width } = layout;
    const indexed = pictures.map((p) => this.#indices(p));
    this.#empty = this.#indices(empty);
    const byUnit = <T>(make: (unit: FaceLayout['units'][number]) => T) =>
      Object.fromEntries(layout.units.map((u) => [u.unit, make(u)])) as Record<TimerUnit, T>;
    this.#figures = byUnit((u) =>
      u.figures.map((box) => {
        const cuts: Cut[] = [];
        indexed.forEach((p, i) => (cuts[numbers[i] as number] = cut(p, within(box, layout), width)));
        return cuts;
      }),
    );
    this.#labels = byUnit(
      ({ unit, label }) =>
        new Map(
          label ? indexed.map((p, i) => [labels[i]?.[unit] ?? '', cut(p, within(label, layout), width)] as const) : [],
        ),
    );
  }

  #indices(rgba: Uint8ClampedArray): Uint8Array {
    const out = applyPalette(rgba, this.#clear === null ? this.#palette : this.#palette.slice(0, -1));
    const clear = this.#clear;
    if (clear !== null) for (let i = 0; i < out.length; i++) if ((rgba[i * 4 + 3] ?? 0) < 128) out[i] = clear;
    return out;
  }

  /** What has to be put on the picture for a unit to show a number. */
  #cutsOf(unit: TimerUnit, figures: string): readonly Cut[] {
    const known = this.#shown[unit].get(figures);
    if (known) return known;
    const label = this.#labels[unit].get(unitLabel(Number(figures), unit, this.#language));
    const places = this.#figures[unit].flatMap((byFigure, i) => byFigure[Number(figures.charAt(i))] ?? []);
    const cuts = label ? [...places, label] : places;
    this.#shown[unit].set(figures, cuts);
    return cuts;
  }

  /** The first frame, whole: it is true by itself. */
  #whole(figures: Record<TimerUnit, string>): Uint8Array {
    const picture = this.#empty.slice();
    for (const unit of timerUnits)
      for (const c of this.#cutsOf(unit, figures[unit])) paste(picture, c, this.#drawing.layout.width);
    return picture;
  }

  /** What changes from one second to the next on a picture that is kept up with it, encoded. */
  #step(picture: Uint8Array, before: Record<TimerUnit, string>, after: Record<TimerUnit, string>): Uint8Array {
    const { width } = this.#drawing.layout;
    const changed = timerUnits.filter((u) => before[u] !== after[u]);
    const cuts = changed.flatMap((u) => {
      const old = this.#cutsOf(u, before[u]);
      return this.#cutsOf(u, after[u]).filter((c, i) => c !== old[i]);
    });
    for (const c of cuts) paste(picture, c, width);
    // A change reaches from its first unit to the seconds: what these units say names it.
    const first = timerUnits.findIndex((u) => changed.includes(u));
    const key = timerUnits
      .slice(first)
      .map((u) => `${before[u]}>${after[u]}`)
      .join(' ');
    const known = this.#frames.get(key);
    if (known) return known;
    const box = around(cuts.map((c) => c.box));
    const { pixels } = cut(picture, box, width);
    // What shines through inside the box stays as it was.
    const made = encodeFrame({ ...box, pixels }, this.#palette.length, SECOND, this.#clear);
    if (this.#frames.size >= KEPT) this.#frames.clear();
    this.#frames.set(key, made);
    return made;
  }

  /**
   * A timer with so many whole seconds left, as GIF89a: `FRAMES` frames of a second, fewer where it ends before, and then
   * what it shows when it is over: a frame made by `over`, or null for zeros that stay.
   */
  gif(seconds: number, over: Uint8Array | null): Uint8Array {
    const { width, height } = this.#drawing.layout;
    if (seconds <= 0 && over) return joinGif(width, height, this.#palette, [over]);
    let shown = figuresAt(seconds, this.#dayFigures);
    const picture = this.#whole(shown);
    const frames = [
      encodeFrame({ x: 0, y: 0, w: width, h: height, pixels: picture }, this.#palette.length, SECOND, this.#clear),
    ];
    for (let left = seconds - 1; left >= 0 && frames.length < FRAMES; left--) {
      const next = figuresAt(left, this.#dayFigures);
      // Over 999 days nothing moves: a frame without a change would be an empty one.
      if (timerUnits.every((u) => next[u] === shown[u])) break;
      frames.push(left === 0 && over ? over : this.#step(picture, shown, next));
      shown = next;
    }
    return joinGif(width, height, this.#palette, frames);
  }

  /** What a face shows when it is over, as a whole frame in its size and in colours of its own: a picture has others. */
  over(what: Parameters<typeof drawOver>[1]): Uint8Array {
    const { width, height } = this.#drawing.layout;
    const rgba = drawOver(this.#drawing, what);
    const { face } = this.#drawing;
    const palette = paletteOf([rgba], [face.ground ?? face.cell].map(rgbOf));
    const pixels = applyPalette(rgba, palette);
    return encodeFrame({ x: 0, y: 0, w: width, h: height, pixels }, palette, SECOND, null);
  }
}
