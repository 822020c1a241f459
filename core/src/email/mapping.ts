import type { RepeatPart } from './blocks/index.ts';

/** Which fields of an item the parts of a repeat show, and which one is its address. '' for none. */
export type ItemMapping = Record<RepeatPart | 'link', string>;

// What such fields are called, most telling first (common practice, no published source).
const NAMES: Record<RepeatPart | 'link', RegExp[]> = {
  picture: [/^(image|picture|photo|img|thumbnail)(_?(url|src))?$/i, /image|picture|photo|thumb/i],
  title: [/^(title|name|product|label|headline)$/i, /title|name/i],
  text: [/^(description|summary|excerpt|teaser|text|subtitle|variant)$/i],
  quantity: [/^(quantity|qty|count|pieces)$/i, /qty|quantity/i],
  price: [/^(price|amount|unit_?price|total)$/i, /price|amount/i],
  link: [/^(url|link|address|href|page)$/i, /url|link/i],
};

const isPicture = (v: unknown) => typeof v === 'string' && /\.(png|jpe?g|gif|webp)(\?|$)/i.test(v);
const isAddress = (v: unknown) => typeof v === 'string' && /^https?:\/\//i.test(v) && !isPicture(v);

/** The fields of an item, those of an object inside it by their dotted path. */
export function itemFields(items: readonly unknown[]): string[] {
  const out = new Set<string>();
  const visit = (value: unknown, path: string, depth: number) => {
    if (value === null || typeof value !== 'object' || Array.isArray(value)) return void (path && out.add(path));
    if (depth < 3)
      for (const [k, v] of Object.entries(value))
        if (/^[a-z0-9_]+$/i.test(k)) visit(v, path ? `${path}.${k}` : k, depth + 1);
  };
  for (const item of items) if (typeof item === 'object' && item !== null) visit(item, '', 0);
  return [...out];
}

const valueOf = (item: unknown, path: string): unknown =>
  path
    .split('.')
    .reduce<unknown>(
      (v, k) => (v !== null && typeof v === 'object' ? (v as Record<string, unknown>)[k] : undefined),
      item,
    );

/** Guesses by name and by value what the fields of real items are for. */
export function guessMapping(items: readonly unknown[]): ItemMapping {
  const fields = itemFields(items);
  const sample = (path: string) => items.map((i) => valueOf(i, path)).find((v) => v !== undefined && v !== null);
  const taken = new Set<string>();
  const pick = (part: RepeatPart | 'link'): string => {
    const free = fields.filter((f) => !taken.has(f));
    const last = (f: string) => f.split('.').pop() ?? f;
    const named = NAMES[part]
      .flatMap((r) => free.filter((f) => r.test(last(f))))
      .find((f) => part !== 'link' || isAddress(sample(f)) || !isPicture(sample(f)));
    const valued =
      part === 'picture'
        ? free.find((f) => isPicture(sample(f)))
        : part === 'link'
          ? free.find((f) => isAddress(sample(f)))
          : undefined;
    const found = valued ?? named ?? '';
    if (found) taken.add(found);
    return found;
  };
  // By value first what a value gives away; then the rest by name.
  const picture = pick('picture');
  const link = pick('link');
  return { picture, link, title: pick('title'), quantity: pick('quantity'), price: pick('price'), text: pick('text') };
}
