import { expect, test, type Page } from '@playwright/test';
import { compileEmail, fillProgram, plainStyle, valuesFor, type HouseStyle } from '@ascenso/core';
import { everyKind } from '../core/test/every-kind.ts';

// Words of every kind of block on the ground they really stand on, as chromium computes both (WCAG 2.2, 1.4.3: 4.5 to 1 for
// text, 3 to 1 for large text). Nothing of the compile is asked: colours are read from what is drawn.

const styles: Record<string, Partial<HouseStyle>> = {
  bindery: {},
  night: { accent: '#0b3d91', onAccent: '#ffffff', link: '#0b3d91', text: '#101418', soft: '#555f6b', page: '#ffffff' },
  spring: {
    accent: '#7a4d00',
    onAccent: '#fff8e0',
    link: '#8a4b00',
    text: '#33302a',
    soft: '#6a6458',
    page: '#fff7e0',
    line: '#e8dcb5',
  },
};

/** Every text of a page whose contrast with what is behind it is too low. */
const faint = (page: Page): Promise<string[]> =>
  page.evaluate(() => {
    const rgb = (css: string) => (css.match(/[\d.]+/g) ?? []).map(Number);
    const light = ([r = 0, g = 0, b = 0]: number[]) => {
      const [x = 0, y = 0, z = 0] = [r, g, b].map((v) =>
        v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4,
      );
      return 0.2126 * x + 0.7152 * y + 0.0722 * z;
    };
    const behind = (e: Element | null): number[] => {
      for (let at = e; at; at = at.parentElement) {
        const color = rgb(getComputedStyle(at).backgroundColor);
        if (color.length === 3 || (color[3] ?? 0) > 0.99) return color;
      }
      return [255, 255, 255];
    };
    const out: string[] = [];
    const texts = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
    for (let node = texts.nextNode(); node; node = texts.nextNode()) {
      const words = (node.textContent ?? '').replace(/[\s\u00a0\u034f\u200c\u200b]+/g, ' ').trim();
      const parent = node.parentElement;
      if (!words || !parent || parent.getClientRects().length === 0 || ['STYLE', 'TITLE'].includes(parent.tagName))
        continue;
      const style = getComputedStyle(parent);
      const [a, b] = [light(rgb(style.color)), light(behind(parent))];
      const ratio = (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
      const size = parseFloat(style.fontSize);
      const large = size >= 24 || (size >= 18.66 && Number(style.fontWeight) >= 700);
      if (ratio < (large ? 3 : 4.5)) out.push(`${ratio.toFixed(2)} “${words.slice(0, 40)}” ${style.color}`);
    }
    return out;
  });

test('every kind of block can be read in light and in dark, under three house styles', async ({ page }) => {
  const addresses = {
    base: 'https://mail.foldwell.example',
    link: () => 'https://mail.foldwell.example/c',
    timer: () => 'https://mail.foldwell.example/t.gif',
    open: 'https://mail.foldwell.example/o',
    unsubscribe: 'https://mail.foldwell.example/u',
  };
  const context = {
    subscriber: { first_name: 'Marta', email: 'marta@readers.example' },
    event: { lines: [{ title: 'Pamphlet kit', price: 18, quantity: 1 }] },
    sender: {
      name: 'Inês Rocha',
      email: 'ines@foldwell.example',
      role: 'Binder',
      phone: '+351 21',
      page: 'https://foldwell.example',
    },
    offer: {
      code: 'KIT-1234',
      deadline: '2026-03-08T18:00:00Z',
      left: '2 days',
      words: '10% off',
      figure: '10%',
      name: 'Kit',
    },
    holds: () => true,
  };
  for (const [name, some] of Object.entries(styles)) {
    const style: HouseStyle = {
      ...plainStyle,
      brand: 'Foldwell Bindery',
      postalAddress: 'Rua das Gáveas 12, Lisboa',
      ...some,
    };
    const program = await compileEmail({ ...everyKind(), offer: 'kit' }, style);
    const { html } = fillProgram(program, valuesFor(program, context), addresses);
    for (const colorScheme of ['light', 'dark'] as const) {
      await page.emulateMedia({ colorScheme });
      await page.setContent(html);
      expect(await faint(page), `${name}, ${colorScheme}`).toEqual([]);
    }
    // Programs that set an attribute instead of asking a media query come to the same.
    await page.emulateMedia({ colorScheme: 'light' });
    await page.setContent(html.replace('<html', '<html data-ogsc=""'));
    expect(await faint(page), `${name}, by the attribute`).toEqual([]);
  }
});
