import type { SKRSContext2D } from '@napi-rs/canvas';
import { BROWN, CREAM, picture } from './pictures.ts';

// What the shop sells, each as itself: drawn, so that nothing is anybody else's.

const SIDE = 384;
const RUST = '#c9532b';

/** A square picture on a ground of its own, with the shadow that a thing throws on the bench. */
const thing = (ground: string, draw: (c: SKRSContext2D) => void): Buffer =>
  picture(SIDE, SIDE, (c) => {
    c.fillStyle = ground;
    c.fillRect(0, 0, SIDE, SIDE);
    c.fillStyle = 'rgba(60,40,20,0.10)';
    c.beginPath();
    c.ellipse(192, 318, 140, 20, 0, 0, Math.PI * 2);
    c.fill();
    draw(c);
  });

function line(c: SKRSContext2D, colour: string, width: number, points: readonly (readonly [number, number])[]): void {
  c.strokeStyle = colour;
  c.lineWidth = width;
  c.lineCap = 'round';
  c.beginPath();
  points.forEach(([x, y], i) => (i === 0 ? c.moveTo(x, y) : c.lineTo(x, y)));
  c.stroke();
}

/** Three thin books, fanned out, each sewn with one line. */
export const pamphlets = (): Buffer =>
  thing('#efe9dc', (c) => {
    for (const [i, colour] of ['#8d9696', '#d2a24c', '#7d9a78'].entries()) {
      c.save();
      c.translate(192, 330);
      c.rotate((i - 1) * 0.28);
      c.fillStyle = colour;
      c.fillRect(-72, -230, 144, 210);
      c.fillStyle = '#fffaf0';
      c.fillRect(66, -224, 6, 198);
      line(c, BROWN, 4, [
        [-64, -170],
        [-64, -80],
      ]);
      c.restore();
    }
  });

/** A sturdy notebook seen from its spine, the long stitches on show. */
export const notebook = (): Buffer =>
  thing('#e6ebe2', (c) => {
    c.fillStyle = '#4f6f5f';
    c.fillRect(96, 70, 192, 244);
    c.fillStyle = '#3e5a4d';
    c.fillRect(96, 70, 54, 244);
    for (let k = 0; k < 4; k++)
      line(c, k % 2 ? '#f3e7d0' : RUST, 5, [
        [104 + k * 13, 96],
        [104 + k * 13, 288],
      ]);
    c.fillStyle = CREAM;
    c.fillRect(182, 120, 80, 46);
  });

/** A book lying open flat, a chain of stitches down its middle. */
export const openBook = (): Buffer =>
  thing('#ece3ea', (c) => {
    for (const side of [-1, 1]) {
      c.fillStyle = '#7b4974';
      c.beginPath();
      c.moveTo(192, 110);
      c.lineTo(192 + side * 158, 92);
      c.lineTo(192 + side * 158, 296);
      c.lineTo(192, 314);
      c.fill();
      c.fillStyle = '#fffaf0';
      c.beginPath();
      c.moveTo(192, 106);
      c.quadraticCurveTo(192 + side * 70, 70, 192 + side * 148, 98);
      c.lineTo(192 + side * 148, 284);
      c.quadraticCurveTo(192 + side * 70, 262, 192, 300);
      c.fill();
    }
    for (let k = 0; k < 7; k++)
      line(c, RUST, 4, [
        [184, 120 + k * 25],
        [192, 132 + k * 25],
        [200, 120 + k * 25],
      ]);
  });

/** A stack of cream sheets with a paper band around it. */
export const sheets = (): Buffer =>
  thing('#e4ddcf', (c) => {
    for (let k = 0; k < 22; k++) {
      c.fillStyle = k % 2 ? '#fbf4e3' : '#f0e3c6';
      c.fillRect(74 + (k % 3) * 2, 306 - k * 9, 236, 8);
    }
    c.fillStyle = '#8a5a3c';
    c.fillRect(166, 112, 52, 204);
    c.fillStyle = CREAM;
    c.fillRect(174, 190, 36, 40);
  });

/** A spool of rust thread with its loose end. */
export const spool = (): Buffer =>
  thing('#f1e4da', (c) => {
    c.fillStyle = RUST;
    c.fillRect(128, 110, 128, 190);
    for (let k = 0; k < 18; k++)
      line(c, k % 2 ? '#b5461f' : '#d8683f', 4, [
        [128, 116 + k * 10.5],
        [256, 120 + k * 10.5],
      ]);
    c.fillStyle = '#b08a5e';
    for (const y of [92, 294]) {
      c.beginPath();
      c.ellipse(192, y, 84, 20, 0, 0, Math.PI * 2);
      c.fill();
    }
    c.fillStyle = BROWN;
    c.beginPath();
    c.ellipse(192, 92, 22, 7, 0, 0, Math.PI * 2);
    c.fill();
    line(c, RUST, 4, [
      [256, 270],
      [300, 290],
      [318, 262],
      [340, 300],
    ]);
  });
