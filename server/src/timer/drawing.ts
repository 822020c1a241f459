import { createCanvas, type Image, type SKRSContext2D } from '@napi-rs/canvas';
import { timerUnits, unitLabel, type Box, type FaceLayout, type TimerFace, type TimerUnit } from '@ascenso/core';
import { WEIGHT } from './fonts.ts';

// Drawing with a canvas: whole pictures as RGBA. What a timer is made of is cut out of them once for each face.

export interface Drawing {
  face: TimerFace;
  layout: FaceLayout;
  scale: 1 | 2;
}

const font = (face: TimerFace, size: number) => `${WEIGHT} ${size}px "${face.font}"`;

/** Radius of the corners of a box, px. */
const radiusOf = ({ face, scale }: Drawing, box: Box) =>
  face.corners === 'plain'
    ? 0
    : Math.min(box.w, box.h) *
      (face.corners === 'round' ? 0.5 : 0.09) *
      (face.corners === 'round' ? 1 : Math.min(1, scale));

function drawGround(g: SKRSContext2D, { face, layout }: Drawing): void {
  if (face.ground === null) return;
  g.fillStyle = face.ground;
  g.fillRect(0, 0, layout.width, layout.height);
}

function drawCell(g: SKRSContext2D, drawing: Drawing, box: Box): void {
  const { face, scale } = drawing;
  const radius = radiusOf(drawing, box);
  g.fillStyle = face.cell;
  g.beginPath();
  g.roundRect(box.x, box.y, box.w, box.h, radius);
  g.fill();
  if (face.line !== 'around') return;
  g.strokeStyle = face.label;
  g.lineWidth = scale;
  g.beginPath();
  g.roundRect(box.x + scale / 2, box.y + scale / 2, box.w - scale, box.h - scale, radius);
  g.stroke();
}

/** Lines that lie over the figures. */
function drawLine(g: SKRSContext2D, { face, layout, scale }: Drawing): void {
  if (face.line !== 'below' && face.line !== 'across') return;
  for (const unit of layout.units)
    for (const box of unit.cells.length > 0 ? unit.cells : [around(unit.figures)]) {
      g.fillStyle = face.line === 'below' ? face.label : (face.ground ?? face.label);
      const y = face.line === 'below' ? box.y + box.h - 2 * scale : box.y + Math.round(box.h / 2) - scale / 2;
      g.fillRect(box.x, Math.round(y), box.w, face.line === 'below' ? 2 * scale : scale);
    }
}

const around = (boxes: readonly Box[]): Box => {
  const x = Math.min(...boxes.map((b) => b.x));
  const y = Math.min(...boxes.map((b) => b.y));
  return {
    x,
    y,
    w: Math.max(...boxes.map((b) => b.x + b.w)) - x,
    h: Math.max(...boxes.map((b) => b.y + b.h)) - y,
  };
};

function drawBetween(g: SKRSContext2D, { face, layout, scale }: Drawing): void {
  g.fillStyle = face.ground === null ? face.cell : face.label;
  for (const { between: box } of layout.units) {
    if (!box) continue;
    const [x, y, r] = [box.x + box.w / 2, box.y + box.h / 2, 2.6 * scale];
    for (const dy of face.between === 'colon' ? [-box.h * 0.13, box.h * 0.13] : [0]) {
      g.beginPath();
      g.arc(x, y + dy, r, 0, Math.PI * 2);
      g.fill();
    }
  }
}

/** Writes a text into the middle of a box, smaller where it would not fit. */
function write(
  g: SKRSContext2D,
  face: TimerFace,
  text: string,
  box: Box,
  size: number,
  color: string,
  likeness = text,
): void {
  g.fillStyle = color;
  g.textAlign = 'center';
  g.textBaseline = 'alphabetic';
  g.font = font(face, size);
  const wide = g.measureText(text).width;
  if (wide > box.w) g.font = font(face, (size * box.w) / wide);
  // Every text of one kind stands on one line: measured by what they all have in common.
  const { actualBoundingBoxAscent: up, actualBoundingBoxDescent: down } = g.measureText(likeness);
  g.fillText(text, box.x + box.w / 2, box.y + box.h / 2 + (up - down) / 2);
}

/** A whole timer with given figures by unit, and labels for given numbers, as RGBA. `null` figures leave the cells empty. */
export function drawFace(
  drawing: Drawing,
  figures: Record<TimerUnit, string> | null,
  labels: Record<TimerUnit, string>,
): Uint8ClampedArray {
  const { face, layout } = drawing;
  const canvas = createCanvas(layout.width, layout.height);
  const g = canvas.getContext('2d');
  drawGround(g, drawing);
  for (const unit of layout.units) for (const cell of unit.cells) drawCell(g, drawing, cell);
  drawBetween(g, drawing);
  for (const unit of layout.units) {
    if (figures)
      unit.figures.forEach((box, i) =>
        write(
          g,
          face,
          figures[unit.unit].charAt(i),
          { ...box, w: box.w * 1.3, x: box.x - box.w * 0.15 },
          layout.figureSize,
          face.figure,
          '0',
        ),
      );
    if (unit.label) write(g, face, labels[unit.unit], unit.label, layout.labelSize, face.label, 'x');
  }
  drawLine(g, drawing);
  return g.getImageData(0, 0, layout.width, layout.height).data;
}

/** The words for numbers of each unit in a language. */
export const labelsFor = (numbers: Record<TimerUnit, number>, language: string): Record<TimerUnit, string> =>
  Object.fromEntries(timerUnits.map((u) => [u, unitLabel(numbers[u], u, language)])) as Record<TimerUnit, string>;

/** What stands in place of the timer when it is over, as RGBA: words in one or two lines, a picture, or the ground. */
export function drawOver(drawing: Drawing, over: { text: string } | { picture: Image } | null): Uint8ClampedArray {
  const { face, layout } = drawing;
  const { width, height } = layout;
  const canvas = createCanvas(width, height);
  const g = canvas.getContext('2d');
  g.fillStyle = face.ground ?? face.cell;
  g.fillRect(0, 0, width, height);
  if (over && 'text' in over) {
    const words = over.text.split(/\s+/);
    const half = Math.ceil(words.length / 2);
    const lines = over.text.length > 26 ? [words.slice(0, half).join(' '), words.slice(half).join(' ')] : [over.text];
    const color = face.ground === null || face.cells === 'none' ? face.figure : face.label;
    lines.forEach((line, i) =>
      write(
        g,
        face,
        line,
        { x: width * 0.05, y: (height / lines.length) * i, w: width * 0.9, h: height / lines.length },
        (height * 0.5) / lines.length,
        color,
        'Ap',
      ),
    );
  } else if (over) {
    const { picture } = over;
    const ratio = Math.min(width / picture.width, height / picture.height);
    const [w, h] = [picture.width * ratio, picture.height * ratio];
    g.drawImage(picture, (width - w) / 2, (height - h) / 2, w, h);
  }
  return g.getImageData(0, 0, width, height).data;
}
