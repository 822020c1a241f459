import { contentOf } from '../email/index.ts';
import { attributeOf, elementsOf } from '../email/index.ts';
import { emailCheck, type CheckContext } from './check.ts';

const kB = (bytes: number) => `${Math.round(bytes / 1000)} kB`;

export const missingAlt = emailCheck('missing-alt', 'warning', ({ id, email, name }, { files }) => {
  const { pictures, html } = contentOf(email);
  const blocks = pictures
    .filter((p) => (p.file || p.address) && p.alt.trim() === '')
    .map((p) => {
      const known = files.find((f) => f.id === p.file)?.alt;
      return {
        block: p.block,
        part: 'alt text',
        message: `A picture in “${name}” has no alt text.`,
        fix: 'Say what it shows: many readers see the words first.',
        ...(known && p.block
          ? {
              repair: {
                label: `Use “${known}”`,
                commands: [{ type: 'block.set' as const, step: id, block: p.block, field: 'alt', value: known }],
              },
            }
          : {}),
      };
    });
  const sources = html.flatMap(({ source, block, place }) =>
    elementsOf(source)
      .filter((e) => e.tagName === 'img' && attributeOf(e, 'alt') === undefined)
      .map((e) => ({
        block,
        part: place,
        message: `The picture ${attributeOf(e, 'src') ?? ''} in the source has no alt text.`,
        fix: 'Add alt="…", or alt="" where it is decoration.',
      })),
  );
  return [...blocks, ...sources];
});

export const noPicture = emailCheck('no-picture', 'warning', ({ email, name }) =>
  contentOf(email)
    .pictures.filter((p) => !p.file && !p.address)
    .map((p) => ({
      block: p.block,
      part: 'picture',
      message: `A picture block in “${name}” has no picture and is left out.`,
      fix: 'Choose a picture, or delete the block.',
    })),
);

/** A picture of more than this takes its time on a phone (common practice, no published source). */
const HEAVY_PICTURE = 500_000;
/** Twice the width of the page is all that a sharp screen shows. */
const SHARP = 2;

export const heavyPicture = emailCheck('heavy-picture', 'warning', ({ email }, { files }: CheckContext) =>
  contentOf(email).pictures.flatMap((p) => {
    const file = files.find((f) => f.id === p.file);
    if (!file) return [];
    const base = { block: p.block, part: 'picture' };
    if (file.size > HEAVY_PICTURE)
      return [
        {
          ...base,
          message: `This picture weighs ${kB(file.size)}: it takes its time on a phone.`,
          fix: 'Make it smaller in the library: up to 500 kB.',
        },
      ];
    if (file.width !== null && file.width > SHARP * p.width && file.size > 150_000)
      return [
        {
          ...base,
          message: `This picture is ${file.width} px wide and shown at ${p.width} px.`,
          fix: `Make it ${SHARP * p.width} px wide in the library.`,
        },
      ];
    return [];
  }),
);

/** Words that have to stand beside a picture for the email to say something with pictures off. */
const WORDS_BESIDE = 20;

export const mostlyPictures = emailCheck('mostly-pictures', 'warning', ({ email, name }) => {
  const { pictures, texts, templates } = contentOf(email);
  const drawn = pictures.filter((p) => p.file || p.address);
  if (drawn.length === 0) return [];
  const said = [
    ...texts.map((t) => t.text),
    ...templates.filter((t) => t.block !== null && t.place !== 'alt text' && t.place !== 'reason').map((t) => t.source),
  ];
  const words = said.join(' ').split(/\s+/).filter(Boolean).length;
  if (words >= WORDS_BESIDE * drawn.length) return [];
  return [
    {
      block: drawn[0]?.block ?? null,
      message: `“${name}” is mostly pictures: ${words} words beside ${drawn.length}. With pictures off it says next to nothing.`,
      fix: 'Write the message as text, and let the pictures go with it.',
    },
  ];
});
