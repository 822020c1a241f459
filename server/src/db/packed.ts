import { constants, deflateRawSync, inflateRawSync } from 'node:zlib';
import { valuesFor, type Program, type Values } from '@ascenso/core';

// What an email was filled with is kept for as long as the email is: that is most of what a person costs. Most of it
// repeats what the program says (addresses with their campaign, names of parts), so it is deflated (RFC 1951) with that as
// the preset dictionary. The dictionary is kept with the program: a release that would make another one reads what is there.

/**
 * First byte of what is kept: JSON as it is (from before there was packing, or where nothing is gained by it), or deflated with
 * the dictionary of the program.
 */
const PLAIN = 0;
const DEFLATED = 1;

/** Window of 8 kB: a dictionary and an email's values fit, and a context costs little to set up. */
const WINDOW = { windowBits: 13, memLevel: 5, level: constants.Z_BEST_COMPRESSION };
const DICTIONARY_BYTES = 6_000;

/** What emails of a program have in common, without anybody's own: what it writes for somebody of whom nothing is known. */
export function dictionaryOf(program: Program, sender: Record<string, string>): Buffer {
  const parts = (program.repeats ?? []).flatMap((r) => [r.fields, r.links]);
  const nobody = valuesFor(program, { subscriber: {}, event: {}, sender });
  // Deflate finds what is near more cheaply than what is far, so the likeliest comes last.
  return Buffer.from(JSON.stringify([parts, nobody])).subarray(-DICTIONARY_BYTES);
}

/** Packs what an email was filled with. The same values with the same dictionary make the same bytes. */
export function packValues(values: Values, dictionary: Buffer | null): Buffer {
  const text = Buffer.from(JSON.stringify(values));
  const packed = deflateRawSync(text, { ...WINDOW, ...(dictionary ? { dictionary } : {}) });
  return packed.length < text.length
    ? Buffer.concat([Buffer.of(DEFLATED), packed])
    : Buffer.concat([Buffer.of(PLAIN), text]);
}

export function unpackValues(kept: Buffer, dictionary: Buffer | null): Values {
  const body = kept.subarray(1);
  const text = kept[0] === PLAIN ? body : inflateRawSync(body, dictionary ? { dictionary } : {});
  return JSON.parse(text.toString()) as Values;
}
