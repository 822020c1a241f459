// A writer of GIF89a ("Graphics Interchange Format, Version 89a", CompuServe, 1990). A library writes whole pictures;
// a timer wants small boxes of a picture, and the same box again from a cache.

/** A part of a picture: where it stands, and its pixels as indices into the palette, row by row. */
export interface Patch {
  x: number;
  y: number;
  w: number;
  h: number;
  pixels: Uint8Array;
}

/** Bits that an index into a palette of so many colours takes, 2 at least as the format wants. */
export const indexBits = (colors: number): number => Math.max(2, Math.ceil(Math.log2(colors)));

/** Bits written least significant first, in blocks of up to 255 bytes that each begin with their length. */
class BlockWriter {
  #bytes = new Uint8Array(1024);
  #length = 2;
  /** Where the length of the open block stands. */
  #block = 1;
  #held = 0;
  #count = 0;

  constructor(first: number) {
    this.#bytes[0] = first;
  }

  #byte(value: number): void {
    // Room for the byte, the beginning of another block, and the end.
    if (this.#length + 3 > this.#bytes.length) {
      const more = new Uint8Array(this.#bytes.length * 2);
      more.set(this.#bytes);
      this.#bytes = more;
    }
    this.#bytes[this.#length++] = value;
    if (this.#length - this.#block <= 255) return;
    this.#bytes[this.#block] = 255;
    this.#block = this.#length++;
  }

  write(value: number, size: number): void {
    this.#held |= value << this.#count;
    this.#count += size;
    while (this.#count >= 8) {
      this.#byte(this.#held & 255);
      this.#held >>>= 8;
      this.#count -= 8;
    }
  }

  /** All that was written, closed by the empty block that ends it. */
  end(): Uint8Array {
    if (this.#count > 0) this.#byte(this.#held & 255);
    const open = this.#length - this.#block - 1;
    this.#bytes[this.#block] = open;
    if (open > 0) this.#bytes[this.#length++] = 0;
    return this.#bytes.slice(0, this.#length);
  }
}

/** Codes have 12 bits at most (Appendix F of the specification). */
const MAX_CODES = 4096;
/** Places for the strings that are known: twice as many as there are codes, so that few meet. */
const PLACES = 8192;
const keys = new Int32Array(PLACES);
const codes = new Uint16Array(PLACES);

/** Pixels compressed by variable-length LZW (Appendix F): the code size, then blocks of 255 bytes, then an empty one. */
function compress(pixels: Uint8Array, bits: number): Uint8Array {
  const clear = 1 << bits;
  const out = new BlockWriter(bits);
  let size = bits + 1;
  let next = clear + 2;
  keys.fill(-1);
  out.write(clear, size);
  let code = pixels[0] ?? 0;
  for (let i = 1; i < pixels.length; i++) {
    const pixel = pixels[i] as number;
    // A string of pixels is known by the code of all but its last and that last one.
    const key = (code << 8) | pixel;
    let place = Math.imul(key, 0x9e3779b1) >>> 19;
    while (keys[place] !== key && keys[place] !== -1) place = (place + 1) & (PLACES - 1);
    if (keys[place] === key) {
      code = codes[place] as number;
      continue;
    }
    out.write(code, size);
    if (next < MAX_CODES) {
      keys[place] = key;
      codes[place] = next;
      // A reader learns a code one step later: the size grows when the code that needs it has been made.
      if (next === 1 << size) size++;
      next++;
    } else {
      out.write(clear, size);
      keys.fill(-1);
      size = bits + 1;
      next = clear + 2;
    }
    code = pixel;
  }
  out.write(code, size);
  out.write(clear + 1, size);
  return out.end();
}

const word = (n: number) => [n & 255, n >> 8];

export type Rgb = readonly [number, number, number];

/** A colour table as the format has it: as long as a power of two, black where there is nothing. */
function table(colors: readonly Rgb[]): number[] {
  const bits = indexBits(colors.length);
  return Array.from({ length: 1 << bits }, (_, i) => colors[i] ?? ([0, 0, 0] as const)).flat();
}

/**
 * One frame: its extension and its compressed pixels, indices into the palette of the file, which has so many colours, or
 * into one of its own. `delay` is hundredths of a second; what it does not cover stays as it was (disposal 1). `clear` is
 * the index of the see-through colour, or null. The pixels are not 0 in number.
 */
export function encodeFrame(
  patch: Patch,
  palette: number | readonly Rgb[],
  delay: number,
  clear: number | null,
): Uint8Array {
  const own = typeof palette === 'number' ? null : palette;
  const bits = indexBits(own ? own.length : (palette as number));
  const control = [0x21, 0xf9, 4, (1 << 2) | (clear === null ? 0 : 1), ...word(delay), clear ?? 0, 0];
  const descriptor = [
    0x2c,
    ...word(patch.x),
    ...word(patch.y),
    ...word(patch.w),
    ...word(patch.h),
    own ? 0x80 | (bits - 1) : 0,
  ];
  const head = [...control, ...descriptor, ...(own ? table(own) : [])];
  const pixels = compress(patch.pixels, bits);
  const frame = new Uint8Array(head.length + pixels.length);
  frame.set(head);
  frame.set(pixels, head.length);
  return frame;
}

/** A whole file of frames that are encoded already. Without a loop: it plays once and holds its last frame. */
export function joinGif(
  width: number,
  height: number,
  palette: readonly Rgb[],
  frames: readonly Uint8Array[],
): Uint8Array {
  const bits = indexBits(palette.length);
  const head = [
    ...[...'GIF89a'].map((c) => c.charCodeAt(0)),
    ...word(width),
    ...word(height),
    0x80 | ((bits - 1) << 4) | (bits - 1),
    0,
    0,
    ...table(palette),
  ];
  const out = new Uint8Array(head.length + frames.reduce((sum, f) => sum + f.length, 0) + 1);
  out.set(head);
  let at = head.length;
  for (const f of frames) {
    out.set(f, at);
    at += f.length;
  }
  out[at] = 0x3b;
  return out;
}
