import type { Page } from 'playwright-core';
import { armsOf, blankStep, type Command, type Step } from '@ascenso/core';
import { emailStep } from './support/steps.ts';
import { inBrowser } from './support/browser.ts';

const ROUNDS = 60;
let count = 0;
const newId = () => `p${++count}`;

const short = (): Step =>
  emailStep(newId(), { email: { sender: '', subject: 'A letter', preview: 'A line', blocks: [] } });
const wait = (): Step => blankStep('wait', newId);

/** So many steps, with branches nested five deep among them where there are enough. */
function steps(n: number): Step[] {
  const all: Step[] = Array.from({ length: n }, (_, i) => (i % 2 ? wait() : short()));
  if (n < 20) return all;
  let inner: Step[] = [short()];
  for (let depth = 0; depth < 5; depth++) {
    const branch = blankStep('branch', newId);
    armsOf(branch)[0]?.steps.push(...inner, wait());
    armsOf(branch)[1]?.steps.push(short());
    inner = [branch];
  }
  return [...all.slice(0, 10), ...inner, ...all.slice(10, n - 16)];
}

/** Edits of a plan by key, in the order in which they are made over and over: what undo takes back is there. */
const EDITS = [
  { name: 'moving a step', key: 'ArrowDown', altKey: true, ctrlKey: false },
  { name: 'undoing the move', key: 'z', altKey: false, ctrlKey: true },
  { name: 'duplicating a step', key: 'd', altKey: false, ctrlKey: true },
  { name: 'undoing the copy', key: 'z', altKey: false, ctrlKey: true },
];
const EDIT_ROUNDS = 12;

/**
 * How long each edit of a plan takes by key until it stands there with its layout, ms, over the rounds; and the same of a bare
 * list of as many items, of which one is moved and one put in.
 */
async function timesOfEdits(page: Page): Promise<{ edits: number[][]; bare: number[] }> {
  return page.evaluate(
    async ([edits, rounds]) => {
      const order = () =>
        [...document.querySelectorAll('[data-step]')].map((e) => e.getAttribute('data-step') ?? '').join();
      const frames = () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
      const out: number[][] = edits.map(() => []);
      const id = [...document.querySelectorAll<HTMLElement>('[data-step]')][8]?.dataset.step ?? '';
      const step = () => document.querySelector<HTMLElement>(`[data-step="${id}"]`);
      for (let round = 0; round < rounds; round++)
        for (const [i, { name: _, ...press }] of edits.entries()) {
          const before = order();
          const at = performance.now();
          step()?.focus();
          step()?.dispatchEvent(new KeyboardEvent('keydown', { ...press, bubbles: true, cancelable: true }));
          for (let tries = 0; order() === before && tries < 500; tries++)
            await new Promise((done) => setTimeout(done, 0));
          void document.body.offsetHeight;
          out[i]?.push(order() === before ? Infinity : performance.now() - at);
          await frames();
        }
      const list = document.createElement('ul');
      for (let i = 0; i < 150; i++)
        list.append(Object.assign(document.createElement('li'), { textContent: `Step ${i}` }));
      document.body.append(list);
      const bare: number[] = [];
      for (let round = 0; round < rounds; round++) {
        const at = performance.now();
        list.insertBefore(list.children[9] as Element, list.children[8] as Element);
        list.insertBefore((list.children[8] as Element).cloneNode(true), list.children[9] as Element);
        void document.body.offsetHeight;
        bare.push(performance.now() - at);
        await frames();
      }
      list.remove();
      return { edits: out, bare };
    },
    [EDITS, EDIT_ROUNDS] as const,
  );
}

/** Moving the selection by key: 95th percentile over the presses, ms from the key to the finished layout, 100 steps against 5. */
export async function plan(): Promise<void> {
  await inBrowser(async (page, base) => {
    const make = async (n: number) => {
      const commands: Command[] = steps(n).map((step, index) => ({
        type: 'step.insert',
        place: { arm: null, index },
        step,
      }));
      return page.evaluate(
        async ([name, all]) => {
          const post = async (url: string, body: unknown) =>
            (
              await fetch(`/api${url}`, {
                method: 'POST',
                headers: { 'Content-Type': 'application/json' },
                body: JSON.stringify(body),
              })
            ).json() as Promise<{ id: string }>;
          const { id } = await post('/sequences', { name });
          await post(`/sequences/${id}/commands`, { base: 0, edits: [{ commands: all, role: 'edit' }] });
          return id;
        },
        [`${n} steps`, commands] as const,
      );
    };
    const measure = async (id: string) => {
      await page.goto(`${base}/sequences/${id}`);
      await page.locator('[data-step=trigger]').focus();
      return page.evaluate(async (rounds) => {
        const times: number[] = [];
        const pressed = () => document.querySelector('[data-step][aria-pressed=true]')?.getAttribute('data-step');
        for (let i = 0; i < rounds; i++) {
          const before = pressed();
          const at = performance.now();
          const down = i % 8 < 4;
          document.activeElement?.dispatchEvent(
            new KeyboardEvent('keydown', { key: down ? 'ArrowDown' : 'ArrowUp', bubbles: true, cancelable: true }),
          );
          for (let tries = 0; pressed() === before && tries < 200; tries++)
            await new Promise((done) => setTimeout(done, 0));
          // Asking for a size makes the layout complete.
          void document.body.offsetHeight;
          times.push(performance.now() - at);
          await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
        }
        return times.slice(8).sort((a, b) => a - b);
      }, ROUNDS);
    };
    const [large, small] = [await make(100), await make(5)];
    const p95 = (t: number[]) => t[Math.floor(t.length * 0.95)] ?? 0;
    const median = (t: number[]) => t[Math.floor(t.length / 2)] ?? 0;
    await measure(small);
    const [a, b] = [await measure(large), await measure(small)];
    const line = (name: string, of: (t: number[]) => number) =>
      console.log(
        JSON.stringify({
          name,
          value: Number(of(a).toFixed(1)),
          unit: 'ms',
          baseline: Number(of(b).toFixed(1)),
          ratio: Number((of(a) / of(b)).toFixed(2)),
        }),
      );
    line('moving the selection in a plan of 100 steps (median; against a plan of 5)', median);
    line('moving the selection in a plan of 100 steps (p95; against a plan of 5)', p95);
    await page.goto(`${base}/sequences/${await make(150)}`);
    await page.locator('[data-step=trigger]').focus();
    const { edits, bare } = await timesOfEdits(page);
    const sorted = (times: number[]) => times.slice(2).sort((x, y) => x - y);
    EDITS.forEach(({ name }, i) => {
      const [value, baseline] = [median(sorted(edits[i] ?? [])), median(sorted(bare))];
      console.log(
        JSON.stringify({
          name: `${name} in a plan of 150 steps (median; against a bare list of 150)`,
          value: Number(value.toFixed(1)),
          unit: 'ms',
          baseline: Number(baseline.toFixed(1)),
          ratio: Number((value / baseline).toFixed(1)),
        }),
      );
    });
  });
}
