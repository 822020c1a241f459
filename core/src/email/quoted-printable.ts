import { walkPieces, writtenText, type Addresses, type Piece, type Program, type Values } from './program.ts';

/** RFC 2045, 6.7 (5): an encoded line holds at most 76 characters, the soft break's "=" included. */
const LINE = 75;
const SURROGATE = /\p{Surrogate}/gu;

function encodeChar(char: string, code: number): string {
  if (code === 61) return '=3D';
  if ((code > 32 && code < 127) || code === 32 || code === 9) return char;
  return code < 128
    ? `=${code.toString(16).toUpperCase().padStart(2, '0')}`
    : encodeURIComponent(char).replaceAll('%', '=');
}

function encodeLine(line: string): string {
  let out = '';
  let width = 0;
  const chars = [...line];
  chars.forEach((char, i) => {
    let unit = encodeChar(char, char.codePointAt(0) as number);
    // White space at a line's end must be encoded (RFC 2045, 6.7 (3)); a leading dot would meet SMTP's dot stuffing.
    if (i === chars.length - 1 && (char === ' ' || char === '\t')) unit = char === ' ' ? '=20' : '=09';
    if (width + unit.length > LINE) {
      out += '=\r\n';
      width = 0;
    }
    if (width === 0 && unit === '.') unit = '=2E';
    out += unit;
    width += unit.length;
  });
  return out;
}

/**
 * Whether a text stands for itself: a few plain words on one line, without "=", a dot in front or white space at an end.
 * Most values do; a loop over their codes is faster than a pattern.
 */
function isPlain(text: string): boolean {
  const { length } = text;
  if (length > LINE - 1) return false;
  for (let i = 0; i < length; i++) {
    const code = text.charCodeAt(i);
    if (code < 32 || code > 126 || code === 61) return false;
  }
  const first = text.charCodeAt(0);
  return length === 0 || (first !== 46 && first !== 32 && text.charCodeAt(length - 1) !== 32);
}

/** Quoted-printable (RFC 2045) of UTF-8 text, with CRLF line ends, as a string of ASCII. */
export function quotedPrintable(text: string): string {
  if (isPlain(text)) return text;
  return text
    .replace(SURROGATE, '\uFFFD')
    .split(/\r\n|\r|\n/)
    .map(encodeLine)
    .join('\r\n');
}

/** Both parts of a program with their still runs encoded once; moving nodes stay as they are. */
export interface EncodedProgram {
  html: Piece[];
  text: Piece[];
}

function encodePiece(piece: Piece): Piece {
  if (typeof piece === 'string') return quotedPrintable(piece);
  if ('chain' in piece) return { ...piece, arms: piece.arms.map((arm) => arm.map(encodePiece)) };
  if ('each' in piece) return { ...piece, row: piece.row.map(encodePiece), none: piece.none.map(encodePiece) };
  if ('given' in piece || 'cell' in piece || 'led' in piece) return { ...piece, pieces: piece.pieces.map(encodePiece) };
  return piece;
}

export function encodeProgram(program: Program): EncodedProgram {
  return { html: program.html.map(encodePiece), text: program.text.map(encodePiece) };
}

/** Fills encoded pieces: every join is a soft line break, so that each piece begins a line of its own. */
export function fillEncoded(
  pieces: readonly Piece[],
  program: Pick<Program, 'links' | 'repeats' | 'direct'>,
  values: Values,
  addresses: Addresses,
): string {
  let out = '';
  walkPieces(pieces, program, values, (piece, at) => {
    const text =
      typeof piece === 'string' ? piece : quotedPrintable(writtenText(piece, program, values, addresses, at));
    out += out === '' ? text : `=\r\n${text}`;
  });
  return out;
}
