import { blockParts, writeRich } from '../email/index.ts';
import { at, type Check, type Finding, type FindingPlace } from './check.ts';
import { liveEmails, templatesOf } from './texts.ts';

/** Words that a pattern leaves to be filled in, such as "[your shop]". */
const FILL_IN = /\[your [^\]\n]{1,60}\]/i;

const plainWriter = {
  text: (t: string) => t, field: () => '', link: (_h: string, inside: string) => inside, bold: (i: string) => i, italic: (i: string) => i,
  lineBreak: ' ', paragraph: (i: string) => `${i}\n`, list: (_o: boolean, items: string[]) => items.join('\n'),
}; // prettier-ignore

export const fillInWords: Check = {
  id: 'fill-in-words',
  run: (sequence) =>
    liveEmails(sequence).flatMap((step) => {
      const texts: { source: string; place: FindingPlace }[] = [
        ...templatesOf(step),
        ...step.email.blocks.flatMap((b) =>
          blockParts(b).rich.map((r) => ({ source: writeRich(r.doc, plainWriter), place: at(step.id, b.id, r.place) })),
        ),
      ];
      return texts.flatMap(({ source, place }): Finding[] => {
        const left = FILL_IN.exec(source)?.[0];
        return left
          ? [
              {
                check: 'fill-in-words',
                level: 'error',
                place,
                message: `“${left}” still stands in “${step.name}”.`,
                fix: 'Write your own words there.',
              },
            ]
          : [];
      });
    }),
};
