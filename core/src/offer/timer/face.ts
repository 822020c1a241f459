import { z } from 'zod';

/** Fonts that ship with the application: mail programs are sent a picture, so the house's own fonts need not be there. */
export const timerFonts = [
  'Instrument Sans',
  'Bricolage Grotesque',
  'Barlow Condensed',
  'Source Serif 4',
  'Courier Prime',
] as const;
export type TimerFont = (typeof timerFonts)[number];

/** A colour: # and six figures, or the name of one of the house style. */
const color = z.string().regex(/^(#[0-9a-f]{6}|[a-zA-Z]{4,10})$/i, 'A colour is # and six figures, as #1e5b4e.');

/** What a timer looks like. Sizes are px. */
export const faceSchema = z.object({
  font: z.enum(timerFonts),
  /** One filled cell for each unit, one for each figure, or figures straight on the ground. */
  cells: z.enum(['unit', 'figure', 'none']),
  corners: z.enum(['plain', 'rounded', 'round']),
  /** A line that dresses the cells. */
  line: z.enum(['none', 'below', 'across', 'around']),
  between: z.enum(['nothing', 'colon', 'dot']),
  labels: z.enum(['below', 'inside', 'none']),
  figure: color,
  cell: color,
  label: color,
  /** Null lets what is behind shine through; the cells stay filled. */
  ground: color.nullable(),
  width: z.int().min(240, '240 px at least.').max(600, '600 px at most.'),
  /** Language of the labels, or '' for the reader's. */
  language: z.string().max(5),
  /** Drawn at twice the size, for fine screens. */
  fine: z.boolean(),
});
export type TimerFace = z.infer<typeof faceSchema>;

const plain = {
  corners: 'rounded',
  line: 'none',
  between: 'nothing',
  labels: 'below',
  width: 480,
  language: '',
  fine: true,
} as const;

/** Faces to begin with, in the colours of the house. */
export const timerFaces = {
  Sheet: {
    ...plain,
    font: 'Instrument Sans',
    cells: 'unit',
    line: 'around',
    figure: 'text',
    cell: 'sheet',
    label: 'soft',
    ground: 'sheet',
  },
  Board: {
    ...plain,
    font: 'Bricolage Grotesque',
    cells: 'unit',
    labels: 'inside',
    figure: 'onAccent',
    cell: 'accent',
    label: 'onAccent',
    ground: null,
  },
  Folio: {
    ...plain,
    font: 'Source Serif 4',
    cells: 'none',
    between: 'dot',
    figure: 'text',
    cell: 'sheet',
    label: 'soft',
    ground: 'sheet',
  },
  Press: {
    ...plain,
    font: 'Barlow Condensed',
    cells: 'figure',
    corners: 'plain',
    line: 'across',
    between: 'colon',
    figure: 'sheet',
    cell: 'text',
    label: 'soft',
    ground: 'sheet',
  },
  Ledger: {
    ...plain,
    font: 'Courier Prime',
    cells: 'unit',
    corners: 'plain',
    line: 'below',
    figure: 'text',
    cell: 'page',
    label: 'soft',
    ground: 'sheet',
  },
  Medal: {
    ...plain,
    font: 'Bricolage Grotesque',
    cells: 'unit',
    corners: 'round',
    labels: 'inside',
    figure: 'accent',
    cell: 'page',
    label: 'text',
    ground: 'sheet',
  },
  Thread: {
    ...plain,
    font: 'Instrument Sans',
    cells: 'none',
    line: 'below',
    between: 'nothing',
    figure: 'accent',
    cell: 'sheet',
    label: 'soft',
    ground: 'sheet',
  },
} as const satisfies Record<string, TimerFace>;
export type TimerFaceName = keyof typeof timerFaces;

/** A face with every colour as hex, and with filled cells that hold their labels where the ground is see-through. */
export function wholeFace(face: TimerFace, hex: (color: string) => string): TimerFace {
  const { ground } = face;
  return {
    ...face,
    figure: hex(face.figure),
    cell: hex(face.cell),
    label: hex(face.label),
    ground: ground === null ? null : hex(ground),
    // A picture cannot take back what shines through: a label that changes has to stand on something filled.
    ...(ground === null && face.cells === 'none' ? { cells: 'unit' as const } : {}),
    ...(ground === null && face.labels === 'below' ? { labels: 'inside' as const } : {}),
  };
}

export const timerUnits = ['day', 'hour', 'minute', 'second'] as const;
export type TimerUnit = (typeof timerUnits)[number];

/** A box in device px. */
export interface Box {
  x: number;
  y: number;
  w: number;
  h: number;
}
export interface UnitBox {
  unit: TimerUnit;
  /** The filled cells: one, or one for each figure. */
  cells: Box[];
  /** Where each figure stands. */
  figures: Box[];
  /** Null where there are no labels. */
  label: Box | null;
  /** What is drawn between this unit and the next. */
  between: Box | null;
}
export interface FaceLayout {
  width: number;
  height: number;
  /** Size of the figures and of the labels, px. */
  figureSize: number;
  labelSize: number;
  units: UnitBox[];
}

/** Where everything of a face stands, in device px: `scale` is 1, or 2 for fine screens; `dayFigures` is 2 or 3. */
export function layoutFace(face: TimerFace, scale: 1 | 2, dayFigures: 2 | 3): FaceLayout {
  const px = (n: number) => Math.round(n * scale);
  const { width } = face;
  const gap = face.between === 'nothing' ? 12 : 22;
  const unitWidth = (width - 3 * gap) / 4;
  const tall = width * 0.2;
  const labelHeight = face.labels === 'none' ? 0 : tall * 0.27;
  const height = face.labels === 'none' ? width * 0.16 : tall;
  const cellHeight = face.labels === 'below' ? height - labelHeight : height;
  const figureHeight = face.labels === 'inside' ? height - labelHeight : cellHeight;
  // The widest figure of our fonts is under 0.62 of its size; three of them have to stand beside each other in a unit.
  const figureSize = Math.min(figureHeight * 0.78, (unitWidth * 0.9) / (dayFigures * 0.62));
  const units = timerUnits.map((unit, i): UnitBox => {
    const left = i * (unitWidth + gap);
    const count = unit === 'day' ? dayFigures : 2;
    const own = face.cells === 'figure';
    const figureWidth = own ? (unitWidth - 3 * (count - 1)) / count : figureSize * 0.62;
    const step = own ? figureWidth + 3 : figureWidth;
    const first = own ? left : left + (unitWidth - count * figureWidth) / 2;
    const figures = Array.from({ length: count }, (_, k): Box => ({
      x: px(first + k * step),
      y: px(figureHeight * 0.06),
      w: px(figureWidth),
      h: px(figureHeight * 0.88),
    }));
    const cell = (x: number, w: number): Box => ({ x: px(x), y: 0, w: px(w), h: px(cellHeight) });
    return {
      unit,
      cells:
        face.cells === 'none'
          ? []
          : own
            ? figures.map((f) => ({ ...f, y: 0, h: px(cellHeight) }))
            : [cell(left, unitWidth)],
      figures,
      label:
        face.labels === 'none'
          ? null
          : {
              x: px(left + 2),
              y: px(height - labelHeight * (face.labels === 'inside' ? 1.12 : 0.94)),
              w: px(unitWidth - 4),
              h: px(labelHeight * 0.9),
            },
      between:
        face.between === 'nothing' || i === 3
          ? null
          : { x: px(left + unitWidth), y: 0, w: px(gap), h: px(figureHeight) },
    };
  });
  return { width: px(width), height: px(height), figureSize: px(figureSize), labelSize: px(labelHeight * 0.62), units };
}

/** The figures that stand on a timer with so many whole seconds left, unit by unit. Over 999 days it says 999. */
export function figuresAt(seconds: number, dayFigures: 2 | 3): Record<TimerUnit, string> {
  const left = Math.max(0, Math.min(seconds, 999 * 86_400 + 86_399));
  const two = (n: number, length = 2) => String(Math.floor(n)).padStart(length, '0');
  return {
    day: two(left / 86_400, dayFigures),
    hour: two((left / 3600) % 24),
    minute: two((left / 60) % 60),
    second: two(left % 60),
  };
}
