import { z } from 'zod';

// Labels gather what belongs to one undertaking, whatever kind of thing it is.

export const labelledKinds = ['sequence', 'offer', 'list', 'template'] as const;
/** A one-off send is a sequence here, too. */
export type LabelledKind = (typeof labelledKinds)[number];

export const labelRequest = z.strictObject({
  name: z.string().trim().min(1, 'Give the label a name.').max(40, '40 characters at most: it stands beside names.'),
});
export const labelledRequest = z.strictObject({
  kind: z.enum(labelledKinds),
  thing: z.uuid('Which one?'),
  /** Whether it has the label from now on. */
  on: z.boolean(),
});

/** A label with what has it. */
export interface LabelRow {
  id: string;
  name: string;
  things: { kind: LabelledKind; id: string }[];
}
