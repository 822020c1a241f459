import { loadImage, type Image } from '@napi-rs/canvas';
import { imageSize } from 'image-size';
import { invalid } from './errors.ts';

/** Larger pictures are taken apart nowhere: one of this size fills 160 MB while it is decoded. */
export const MEGAPIXELS = 40;

/** One picture is decoded at a time, so that what stands in memory is bounded, whoever asks. */
let last: Promise<unknown> = Promise.resolve();

/** Width and height that a picture says of itself, px; null where it says none. */
function saidSize(content: Buffer): { width: number; height: number } | null {
  try {
    // In memory of its own: of a short one the reader would go on into what happens to lie behind it.
    return imageSize(Uint8Array.from(content));
  } catch {
    return null;
  }
}

const tooLarge = ({ width, height }: { width: number; height: number }) => width * height > MEGAPIXELS * 1e6;

/** Decodes a picture; null for one that is damaged or too large. */
export async function decodePicture(content: Buffer): Promise<Image | null> {
  const size = saidSize(content);
  if (!size || tooLarge(size)) return null;
  const decoded = last.then(() => loadImage(content).catch(() => null));
  last = decoded;
  return decoded;
}

/** Width and height of an uploaded picture, px. Refuses, in words, one that is too large or that nobody could see. */
export async function checkPicture(content: Buffer): Promise<{ width: number; height: number }> {
  const size = saidSize(content);
  if (size && tooLarge(size))
    throw invalid(
      'file',
      `That picture is ${size.width} × ${size.height} px: ${MEGAPIXELS} megapixels are the most. Make it smaller first.`,
    );
  if (!size || !(await decodePicture(content)))
    throw invalid('file', 'That picture is damaged: it cannot be opened. Save it anew and choose it again.');
  return size;
}
