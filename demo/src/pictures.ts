import { createCanvas, type SKRSContext2D } from '@napi-rs/canvas';
import { PDFDocument, rgb, StandardFonts } from 'pdf-lib';

export const CREAM = '#f3e7d0';
export const BROWN = '#6b3a22';

export function picture(width: number, height: number, draw: (c: SKRSContext2D) => void): Buffer {
  const canvas = createCanvas(width, height);
  draw(canvas.getContext('2d'));
  return canvas.toBuffer('image/png');
}

/** A folded signature sewn with five lines of thread. */
export const cover = () =>
  picture(1072, 520, (c) => {
    c.fillStyle = CREAM;
    c.fillRect(0, 0, 1072, 520);
    for (let i = 0; i < 6; i++) {
      c.fillStyle = i % 2 ? '#e9d8b8' : '#fffaf0';
      c.beginPath();
      c.moveTo(536, 70 + i * 8);
      c.lineTo(860 - i * 10, 110 + i * 8);
      c.lineTo(860 - i * 10, 430 + i * 4);
      c.lineTo(536, 450 - i * 2);
      c.lineTo(212 + i * 10, 430 + i * 4);
      c.lineTo(212 + i * 10, 110 + i * 8);
      c.closePath();
      c.fill();
    }
    c.strokeStyle = BROWN;
    c.lineWidth = 5;
    c.lineCap = 'round';
    for (let i = 0; i < 5; i++) {
      c.beginPath();
      c.moveTo(536, 140 + i * 60);
      c.lineTo(536, 172 + i * 60);
      c.stroke();
    }
  });

/** The bindery's mark: an open book seen from above, with the thread in its fold. */
export const mark = (): Buffer =>
  picture(192, 128, (c) => {
    c.fillStyle = BROWN;
    for (const side of [-1, 1]) {
      c.beginPath();
      c.moveTo(96 + side * 6, 18);
      c.quadraticCurveTo(96 + side * 48, -2, 96 + side * 92, 16);
      c.lineTo(96 + side * 92, 108);
      c.quadraticCurveTo(96 + side * 48, 90, 96 + side * 6, 112);
      c.closePath();
      c.fill();
    }
    c.fillStyle = '#c9532b';
    for (let i = 0; i < 4; i++) c.fillRect(93, 26 + i * 22, 6, 12);
  });

/** A head and shoulders in one colour, as a stamp would have it. */
export const portrait = (ground: string): Buffer =>
  picture(192, 192, (c) => {
    c.fillStyle = ground;
    c.fillRect(0, 0, 192, 192);
    c.fillStyle = CREAM;
    c.beginPath();
    c.arc(96, 78, 36, 0, Math.PI * 2);
    c.fill();
    c.beginPath();
    c.ellipse(96, 186, 68, 62, 0, 0, Math.PI * 2);
    c.fill();
  });

/** Three stacks of paper. */
export const papers = () =>
  picture(1072, 460, (c) => {
    c.fillStyle = '#efe9dc';
    c.fillRect(0, 0, 1072, 460);
    ['#d9c3a0', '#b9c8b8', '#cbb3be'].forEach((colour, i) => {
      for (let k = 0; k < 14; k++) {
        c.fillStyle = colour;
        c.fillRect(120 + i * 300 + (k % 3) * 4, 360 - k * 18, 240, 14);
        c.fillStyle = 'rgba(0,0,0,0.08)';
        c.fillRect(120 + i * 300 + (k % 3) * 4, 372 - k * 18, 240, 2);
      }
    });
  });

/** Three kits in their boxes. */
export const kits = () =>
  picture(1072, 460, (c) => {
    c.fillStyle = CREAM;
    c.fillRect(0, 0, 1072, 460);
    ['#8a5a3c', '#3f5f58', '#7b4974'].forEach((colour, i) => {
      c.fillStyle = colour;
      c.fillRect(110 + i * 310, 110, 230, 260);
      c.fillStyle = '#fffaf0';
      c.fillRect(140 + i * 310, 150, 170, 80);
      c.strokeStyle = '#fffaf0';
      c.lineWidth = 4;
      for (let k = 0; k <= i; k++) {
        c.beginPath();
        c.arc(225 + i * 310, 300, 18 + k * 12, 0, Math.PI * 2);
        c.stroke();
      }
    });
  });

/** The stitch guide: five pages of our own. */
export async function guide(): Promise<Buffer> {
  const pdf = await PDFDocument.create();
  const font = await pdf.embedFont(StandardFonts.TimesRoman);
  pdf.setCreationDate(new Date(0));
  pdf.setModificationDate(new Date(0));
  for (const [i, name] of [
    'Pamphlet stitch',
    'Long stitch',
    'Kettle stitch',
    'Coptic stitch',
    'Japanese stab stitch',
  ].entries()) {
    const page = pdf.addPage([420, 595]);
    page.drawText(name, { x: 48, y: 520, size: 26, font, color: rgb(0.42, 0.23, 0.13) });
    page.drawText(`Foldwell Bindery, stitch ${i + 1} of 5`, { x: 48, y: 496, size: 11, font });
    for (let k = 0; k < 7; k++)
      page.drawLine({
        start: { x: 80, y: 430 - k * 50 },
        end: { x: 340, y: 430 - k * 50 + (k % 2) * i * 6 },
        thickness: 1.5,
        color: rgb(0.42, 0.23, 0.13),
      });
  }
  return Buffer.from(await pdf.save());
}
