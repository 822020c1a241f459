import { blankEmail, type Command } from '@ascenso/core';
import { inBrowser } from './support/browser.ts';

const KEYS = 40;

/**
 * From a key to the phone that shows it, ms, over so many keys typed one by one; against the same page with a field that
 * nothing listens to. Both are told: the share that is ours is what lies between.
 */
export async function typing(): Promise<void> {
  await inBrowser(async (page, base) => {
    let n = 0;
    const step = blankEmail(() => `t${++n}`, 'Typed');
    const commands: Command[] = [{ type: 'step.insert', place: { arm: null, index: 0 }, step }];
    const headers = { origin: base };
    const made = await page.request.post(`${base}/api/sequences`, { data: { name: 'Typing' }, headers });
    const { id } = (await made.json()) as { id: string };
    await page.request.post(`${base}/api/sequences/${id}/commands`, {
      data: { base: 0, edits: [{ commands, role: 'edit' }] },
      headers,
    });
    await page.goto(`${base}/sequences/${id}/emails/${step.id}`);
    await page.getByRole('textbox', { name: 'Text of the block' }).click();
    await page.locator('iframe[title="The email on a phone"]').waitFor();
    const measure = async (settled: string) => {
      const times: number[] = [];
      for (let i = 0; i < KEYS; i++) {
        await page.evaluate((how) => {
          const w = window as unknown as { told?: Promise<number> };
          w.told = new Promise((resolve) => {
            document.addEventListener(
              'keydown',
              () => {
                const at = performance.now();
                if (how === 'frame') return requestAnimationFrame(() => resolve(performance.now() - at));
                const phone = document.querySelector('iframe[title="The email on a phone"]') as HTMLIFrameElement;
                const watch = new MutationObserver(() => {
                  watch.disconnect();
                  requestAnimationFrame(() => resolve(performance.now() - at));
                });
                const page = phone.contentDocument as Document;
                watch.observe(page.body, { childList: true, characterData: true, subtree: true });
              },
              { once: true, capture: true },
            );
          });
        }, settled);
        await page.keyboard.press('x');
        times.push(await page.evaluate(() => (window as unknown as { told: Promise<number> }).told));
      }
      return times.slice(5).sort((a, b) => a - b);
    };
    const ours = await measure('phone');
    await page.evaluate(() => document.body.insertAdjacentHTML('afterbegin', '<input id="bare">'));
    await page.locator('#bare').focus();
    const bare = await measure('frame');
    const at = (t: number[], share: number) => t[Math.floor(t.length * share)] ?? 0;
    for (const [words, share] of [
      ['median', 0.5],
      ['p95', 0.95],
    ] as const)
      console.log(
        JSON.stringify({
          name: `key press to phone preview (${words}; against a field that nothing listens to)`,
          value: Number(at(ours, share).toFixed(1)),
          unit: 'ms',
          baseline: Number(at(bare, share).toFixed(1)),
          ratio: Number((at(ours, share) / at(bare, share)).toFixed(2)),
        }),
      );
  });
}
