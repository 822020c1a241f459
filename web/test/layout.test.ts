import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { armsOf, blankStep, reaches, walk, type Step } from '@ascenso/core';
import { layoutPlan, type PlanLayout } from '../src/plan/layout.ts';

let counter = 0;
const id = () => `s${++counter}`;
const leaf = fc
  .constantFrom('email' as const, 'wait' as const, 'action' as const, 'leave' as const)
  .map((kind): Step => blankStep(kind, id));
const steps: fc.Arbitrary<Step[]> = fc.letrec<{ list: Step[] }>((tie) => ({
  list: fc.array(
    fc.oneof(
      { maxDepth: 3, withCrossShrink: true },
      leaf,
      fc
        .tuple(fc.constantFrom('branch' as const, 'split' as const, 'until' as const), tie('list'), tie('list'))
        .map(([kind, a, b]): Step => {
          const step = blankStep(kind, id);
          armsOf(step).forEach((arm, i) => arm.steps.push(...(i === 0 ? a : b)));
          return step;
        }),
    ),
    { maxLength: 6 },
  ),
})).list;

interface Area {
  name: string;
  x: number;
  y: number;
  width: number;
  height: number;
}
const areas = (plan: PlanLayout): Area[] => [
  ...plan.boxes.map((b) => ({ name: b.id, ...b })),
  ...plan.arms.map((a) => ({ name: `arm ${a.id}`, height: 30, ...a })),
];
const apart = (a: Area, b: Area) =>
  a.x + a.width <= b.x || b.x + b.width <= a.x || a.y + a.height <= b.y || b.y + b.height <= a.y;

describe('the layout of a plan, for any plan', () => {
  test('no two boxes touch, and all lie inside', () => {
    fc.assert(
      fc.property(steps, (list) => {
        const plan = layoutPlan({ steps: list });
        const all = areas(plan);
        expect(plan.boxes).toHaveLength(walk({ steps: list }).length);
        all.forEach((a, i) => {
          for (const b of all.slice(i + 1)) if (!apart(a, b)) throw new Error(`${a.name} lies on ${b.name}`);
          expect(a.x).toBeGreaterThanOrEqual(0);
          expect(a.x + a.width).toBeLessThanOrEqual(plan.width);
          expect(a.y + a.height).toBeLessThanOrEqual(plan.height);
        });
      }),
      { numRuns: 300 },
    );
  });

  test('time runs down: a step stands below every step that comes before it on its way', () => {
    fc.assert(
      fc.property(steps, (list) => {
        const at = new Map(layoutPlan({ steps: list }).boxes.map((b) => [b.id, b]));
        for (const { step, siblings, place, parent } of walk({ steps: list })) {
          const box = at.get(step.id);
          const before = siblings[place.index - 1] ?? parent?.step;
          const above = before && at.get(before.id);
          if (box && above) expect(box.y).toBeGreaterThanOrEqual(above.y + above.height);
          // Nothing of an arm hangs below what comes after its branch.
          const next = siblings[place.index + 1];
          if (next)
            for (const { step: inner } of armsOf(step).flatMap((a) => walk(a)))
              expect((at.get(inner.id)?.y ?? 0) + (at.get(inner.id)?.height ?? 0)).toBeLessThanOrEqual(
                at.get(next.id)?.y ?? 0,
              );
        }
      }),
      { numRuns: 300 },
    );
  });

  test('every step and every arm hangs on a line', () => {
    fc.assert(
      fc.property(steps, (list) => {
        const plan = layoutPlan({ steps: list });
        const wires = new Set(plan.wires.map((w) => w.id));
        expect(wires.size).toBe(plan.wires.length);
        for (const b of plan.boxes) expect(wires.has(`to-${b.id}`)).toBe(true);
        for (const a of plan.arms) expect(wires.has(`arm-${a.id}`)).toBe(true);
      }),
      { numRuns: 100 },
    );
  });

  test('the ruler names days in order, none twice running, and none nobody reaches', () => {
    fc.assert(
      fc.property(steps, (list) => {
        const { days } = layoutPlan({ steps: list });
        days.forEach((d, i) => {
          expect(d.text).toMatch(/^Day /);
          if (i > 0) expect([d.y > (days[i - 1]?.y ?? 0), d.text === days[i - 1]?.text]).toEqual([true, false]);
        });
        const reached = [...reaches({ steps: list }).values()].some(Boolean);
        if (!reached) expect(days).toEqual([]);
      }),
      { numRuns: 100 },
    );
  });
});
