import { z } from 'zod';
import { fieldTestSchema, label, readPath, testField, wanted, type FieldTest } from '../field-test.ts';
import { plain, type AtomKind } from './kind.ts';
import { sampleTest } from './sample.ts';

const schema = z.object({ kind: z.literal('attribute'), test: fieldTestSchema });

/** "has a value for skill that is “new”". */
function words(test: FieldTest): string {
  if (test.op === 'is set') return `has a value for ${label(test.field)}`;
  if (test.op === 'is not set') return `has no value for ${label(test.field)}`;
  const verb = test.op === 'is' || test.op === 'is not' || test.op === 'contains' ? test.op : `is ${test.op}`;
  return `has a value for ${label(test.field)} that ${verb} ${wanted(test)}`;
}

export const attributeAtom: AtomKind<'attribute', typeof schema> = {
  ...plain,
  schema,
  holds: ({ test }, { facts }) => testField(test, readPath(facts.person.attributes, test.field)),
  words: ({ test }) => words(test),
  about: 'attributes',
  sample: (world, pick) => ({ kind: 'attribute', test: sampleTest(world.attributes, world, pick) }),
};
