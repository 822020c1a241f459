import { z } from 'zod';
import {
  afterSchema,
  faceSchema,
  layoutFace,
  timerFaces,
  wallSchema,
  wholeFace,
  zoneSchema,
} from '../../offer/index.ts';
import { hexOf } from '../look.ts';
import { blockBase, type BlockKind, leaf, lineField, node, padding, parts, raw } from './kind.ts';

/** What a timer counts to: the deadline of the email's offer, a moment, or a date that the person or the event carries. */
export const timerTargetSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('offer') }),
  z.object({ kind: z.literal('date'), wall: wallSchema, zone: zoneSchema }),
  z.object({ kind: z.literal('field'), path: z.string().max(120) }),
]);

const schema = z.object({
  ...blockBase,
  kind: z.literal('timer'),
  to: timerTargetSchema,
  face: faceSchema,
  /** What it shows once the time is over; null for what the offer says. */
  after: afterSchema.nullable(),
  /** Words before the deadline, in the picture's alt text and in the plain text. A template. */
  says: lineField,
});

export const timerBlock: BlockKind<'timer', typeof schema> = {
  ...leaf,
  kind: 'timer',
  name: 'Timer',
  about: 'Counts down to the offer’s deadline, or to a date',
  schema,
  looks: ['align', 'above', 'below'],
  blank: (newId) => ({
    id: newId(),
    kind: 'timer',
    to: { kind: 'offer' },
    face: timerFaces.Sheet,
    after: null,
    says: 'Closes on',
  }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const { look } = block;
    const face = wholeFace(block.face, (c) => hexOf(c, style));
    const timer = masks.timer({ to: block.to, face, after: block.after });
    const { start, end } = masks.givenAround(timer.path);
    const words = `${masks.html(block.says)} ${masks.html(`{{ ${timer.path} | date: "moment" }}`)}`.trim();
    const { width } = layoutFace(face, 1, 2);
    return {
      nodes: [
        raw(start),
        node('mj-image', {
          'css-class': 'plate',
          src: timer.picture,
          alt: words,
          width: `${width}px`,
          align: look?.align ?? 'center',
          padding: padding(look, canvas, 14, 14),
        }),
        raw(end),
      ],
      plain: `${start}${masks.plain(block.says)} ${masks.plain(`{{ ${timer.path} | date: "moment" }}`)}${end}`,
    };
  },
  parts: (block) =>
    parts({
      templates: [
        { place: 'says', source: block.says },
        // Asked for as any field is: a path that nothing provides is told.
        ...(block.to.kind === 'offer' ? [{ place: 'counts to', source: '{{ offer.deadline }}' }] : []),
        ...(block.to.kind === 'field' ? [{ place: 'counts to', source: `{{ ${block.to.path} }}` }] : []),
      ],
      still: block.after?.kind === 'message' ? [{ place: 'afterwards', text: block.after.text }] : [],
    }),
  title: (block) => block.says || 'Timer',
  sample: (newId) => ({
    id: newId(),
    kind: 'timer',
    to: { kind: 'date', wall: '2031-03-31T18:00', zone: 'Europe/Lisbon' },
    face: timerFaces.Sheet,
    after: null,
    says: 'It ends on',
  }),
};
