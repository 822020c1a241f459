import { setTimeout } from 'node:timers/promises';
import { paragraphs, blankEmail, type Block, type Command } from '@ascenso/core';
import type { Page } from 'playwright-core';
import { putBareEditor } from './support/bare-editor.ts';
import { inBrowser } from './support/browser.ts';

const WORDS = 'fold along the grain, and';
const KEYS = WORDS.length;
const EVERY_MS = 80;

/**
 * Types at an even pace, and answers how long it took from the first key until the last one is painted, ms. Keys come when
 * they come, as from a hand: none waits for what the page made of the one before.
 */
async function stands(page: Page, selector: string): Promise<number> {
  await page.evaluate(
    ([where, keys]) => {
      const w = window as unknown as { stood?: Promise<number> };
      const field = document.querySelector(where) as HTMLElement;
      const before = field.textContent?.length ?? 0;
      w.stood = new Promise((resolve) => {
        let begun = 0;
        document.addEventListener('keydown', (e) => e.key !== 'End' && (begun ||= performance.now()), {
          capture: true,
        });
        const watch = new MutationObserver(() => {
          if ((field.textContent?.length ?? 0) < before + keys) return;
          watch.disconnect();
          requestAnimationFrame(() => resolve(performance.now() - begun));
        });
        watch.observe(field, { childList: true, characterData: true, subtree: true });
      });
    },
    [selector, KEYS] as const,
  );
  await page.locator(selector).first().focus();
  await page.keyboard.press('End');
  const begun = performance.now();
  const pressed: Promise<void>[] = [];
  for (const [i, key] of [...WORDS].entries()) {
    await setTimeout(Math.max(0, begun + i * EVERY_MS - performance.now()));
    pressed.push(page.keyboard.press(key));
  }
  await Promise.all(pressed);
  return page.evaluate(() => (window as unknown as { stood: Promise<number> }).stood);
}

/** How long 25 keys at 80 ms each take to stand on the screen in emails of 5 and of 80 blocks, against a bare TipTap editor. */
export async function keys(): Promise<void> {
  await inBrowser(async (page, base) => {
    for (const blocks of [5, 80]) {
      let n = 0;
      const step = blankEmail(() => `k${++n}`, 'Typed');
      const filler = Array.from({ length: blocks - step.email.blocks.length }, (_, i): Block => ({
        id: `f${i}`,
        kind: 'text',
        doc: paragraphs(`Paragraph ${i} of a long letter.`),
      }));
      step.email.blocks.splice(1, 0, ...filler);
      const commands: Command[] = [{ type: 'step.insert', place: { arm: null, index: 0 }, step }];
      const headers = { origin: base };
      const made = await page.request.post(`${base}/api/sequences`, { data: { name: `Keys ${blocks}` }, headers });
      const { id } = (await made.json()) as { id: string };
      await page.request.post(`${base}/api/sequences/${id}/commands`, {
        data: { base: 0, edits: [{ commands, role: 'edit' }] },
        headers,
      });
      await page.goto(`${base}/sequences/${id}/emails/${step.id}`);
      await page.locator('iframe[title="The email on a phone"]').waitFor();
      await page.getByRole('textbox', { name: 'Text of the block' }).first().click();
      const ours = await stands(page, '[aria-label="Text of the block"]');
      await page.goto('about:blank');
      await putBareEditor(page);
      const bare = await stands(page, '#bare');
      console.log(
        JSON.stringify({
          name: `${KEYS} keys at ${EVERY_MS} ms each stand on the screen, ${blocks} blocks`,
          value: Math.round(ours),
          unit: 'ms',
          baseline: Math.round(bare),
          ratio: Number((ours / bare).toFixed(2)),
        }),
      );
    }
  });
}
