import type { Image } from '@napi-rs/canvas';
import type { After, TimerFace } from '@ascenso/core';
import { decodePicture } from '../app/picture.ts';
import { Painter } from './painter.ts';

export { FRAMES, Painter } from './painter.ts';

/** A timer that is asked for. */
export interface TimerAsk {
  /** Colours as hex. */
  face: TimerFace;
  /** Language of its reader, for labels that have none of their own. */
  language: string;
  /** Milliseconds until it is over; 0 or less once it is. */
  left: number;
  after: After;
  /** Content of a hosted picture, or undefined where it is gone. */
  picture: (file: string) => Promise<Buffer | undefined>;
}

/** Faces that are kept ready: each takes some tens of ms to draw and about 200 kB. */
const FACES = 100;
const painters = new Map<string, Painter>();
/** What faces show at their end, by face and ending: drawing words takes longer than the timer. */
const endings = new Map<string, Uint8Array | null>();

function kept<T>(map: Map<string, T>, key: string, make: () => T): T {
  const known = map.get(key);
  const value = known === undefined ? make() : known;
  // The one used last goes to the end; the oldest is at the beginning.
  map.delete(key);
  map.set(key, value);
  if (map.size > FACES) map.delete(map.keys().next().value as string);
  return value;
}

const DAY_MS = 86_400_000;

/** Pictures are drawn into the timer's end only when a reader can watch it come. */
async function endingOf(painter: Painter, key: string, ask: TimerAsk): Promise<Uint8Array | null> {
  const { after } = ask;
  const name = `${key}|${JSON.stringify(after)}`;
  const known = endings.get(name);
  if (known !== undefined) return known;
  let image: Image | null = null;
  if (after.kind === 'picture') {
    const content = await ask.picture(after.file);
    image = content ? await decodePicture(content) : null;
  }
  return kept(endings, name, () => {
    if (after.kind === 'zeros') return null;
    return painter.over(after.kind === 'message' ? { text: after.text } : image && { picture: image });
  });
}

/** A timer as GIF89a: a minute of it, or what it shows once it is over. */
export async function timerGif(ask: TimerAsk): Promise<Uint8Array> {
  const days: 2 | 3 = ask.left >= 100 * DAY_MS ? 3 : 2;
  const language = ask.face.language || ask.language;
  const key = JSON.stringify([ask.face, days, language]);
  const painter = kept(painters, key, () => new Painter(ask.face, ask.face.fine ? 2 : 1, days, language));
  const seconds = Math.max(0, Math.floor(ask.left / 1000));
  const ends = seconds < 60;
  return painter.gif(seconds, ends ? await endingOf(painter, key, ask) : null);
}
