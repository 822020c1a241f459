import { z } from 'zod';
import { fieldTestSchema, firstOf, label, readPath, testField, wanted, type FieldTest } from '../field-test.ts';
import { plain, type AtomKind } from './kind.ts';
import { sampleTest } from './sample.ts';

const schema = z.object({ kind: z.literal('attribute'), test: fieldTestSchema });

/** "has a value for skill that is “new”". */
function words(test: FieldTest): string {
  if (test.op === 'is set') return `has a value for ${label(test.field)}`;
  if (test.op === 'is not set') return `has no value for ${label(test.field)}`;
  const plainVerb = /^(is|contains|begins with)\b/.test(test.op);
  const verb = plainVerb ? test.op : `is ${test.op}`;
  return `has a value for ${label(test.field)} that ${verb} ${wanted(test)}`;
}

export const attributeAtom: AtomKind<'attribute', typeof schema> = {
  ...plain,
  schema,
  holds: ({ test }, { facts }) => testField(test, readPath(facts.person.attributes, test.field)),
  words: ({ test }) => words(test),
  speaksOf: ({ test }) => ({ attributes: [firstOf(test.field)] }),
  turns: () => [],
  about: 'attributes',
  sample: (world, pick) => ({ kind: 'attribute', test: sampleTest(world.attributes, world, pick) }),
};
