import fc from 'fast-check';
import {
  sampleAtom,
  type Atom,
  type AtomName,
  type Condition,
  type Picker,
  type SampleWorld,
} from '../src/audience/index.ts';

// Random conditions of every kind there is: a new kind is in them as soon as it is one.

const picking =
  (next: fc.GeneratorValue): Picker =>
  (of) =>
    of[next(fc.nat, of.length - 1)] as (typeof of)[number];

export const randomAtom = (world: SampleWorld, kinds?: readonly AtomName[]): fc.Arbitrary<Atom> =>
  fc.gen().map((next) => sampleAtom(world, picking(next), kinds));

/** Questions joined by all, any and not, three deep. */
export const randomCondition = (world: SampleWorld): fc.Arbitrary<Condition> =>
  fc.letrec<{ tree: Condition }>((tie) => ({
    tree: fc.oneof(
      { maxDepth: 3 },
      { weight: 3, arbitrary: randomAtom(world) },
      {
        weight: 1,
        arbitrary: fc
          .tuple(fc.constantFrom('all' as const, 'any' as const), fc.array(tie('tree'), { maxLength: 3 }))
          .map(([kind, of]) => ({ kind, of })),
      },
      { weight: 1, arbitrary: tie('tree').map((of) => ({ kind: 'not' as const, of })) },
    ),
  })).tree;
