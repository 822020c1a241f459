/**
 * A number in [0, 1) that is always the same for one text: a random choice that can be asked again anywhere. FNV-1a over
 * the UTF-16 units, then the finalizer of MurmurHash3 (both public domain), because FNV alone leaves near texts near.
 */
export function shareOf(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  h ^= h >>> 16;
  return (h >>> 0) / 4294967296;
}
