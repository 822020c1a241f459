import type { Discount } from './schema.ts';

/** Currencies by the signs that people write. */
const SIGNS: Readonly<Record<string, string>> = { '€': 'EUR', $: 'USD', '£': 'GBP' };

interface Older {
  words: string;
  discount: { kind: 'percent' | 'amount'; value: number } | { kind: 'other' };
}

/**
 * An offer of releases in which its words were written apart from its figure, as one of today: the figure that the shop
 * took stays, and what stood around it in the words stays around it. Words that do not say the figure stand behind it.
 */
export function fromOlder({ words: said, discount, ...offer }: Older): object {
  const words = said.replace(/\{\{|\}\}/g, '').trim();
  if (discount.kind === 'other') return { ...offer, discount: { kind: 'other', words } };
  const written = String(discount.value);
  const value = written.includes('.') ? `${written.replace('.', '[.,]')}0*` : `${written}(?:[.,]0+)?`;
  const figure = discount.kind === 'percent' ? `${value}\\s?%` : `(?:[€$£]\\s?${value}|${value}\\s?[€$£])`;
  const found = new RegExp(`^(?:(.*?)\\s+)?${figure} off\\b\\s*(.*)$`, 'i').exec(words);
  const currency = SIGNS[/[€$£]/.exec(words)?.[0] ?? '€'] ?? 'EUR';
  const now: Discount =
    discount.kind === 'percent'
      ? { kind: 'percent', value: discount.value }
      : { kind: 'amount', value: discount.value, currency };
  return {
    ...offer,
    discount: now,
    around: found ? { before: found[1] ?? '', after: found[2] ?? '' } : { before: '', after: `(${words})` },
  };
}
