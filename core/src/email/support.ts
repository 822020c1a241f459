import { attribute, elementsOf, textIn } from './source.ts';
import { notKnownIn } from './support-data.ts';

/** A feature of an email, and the mail programs that do not know it. */
export interface Unsupported {
  /** As the data names it: "css-border-radius", "html-table". */
  feature: string;
  words: string;
  programs: readonly string[];
}

const QUERIES: [feature: string, pattern: RegExp][] = [
  ['css-at-media-prefers-color-scheme', /prefers-color-scheme/i],
  ['css-at-media', /@media/i],
];

const wordsOf = (feature: string) =>
  feature.startsWith('html-')
    ? `<${feature.slice(5)}>`
    : feature.startsWith('css-at-')
      ? `@${feature.slice(7).replace('media-', 'media ')}`
      : feature.slice(4);

/** Features of a finished email, from its elements, its inline styles and its style sheets. */
function featuresOf(html: string): Set<string> {
  const out = new Set<string>();
  for (const e of elementsOf(html)) {
    out.add(`html-${e.tagName}`);
    const style = attribute(e, 'style') ?? '';
    const sheet = e.tagName === 'style' ? textIn(e) : '';
    for (const [, property] of `${style};${sheet}`.matchAll(/(?:^|[;{])\s*([a-z-]+)\s*:/gi))
      out.add(`css-${property?.toLowerCase()}`);
    for (const [feature, pattern] of QUERIES) if (pattern.test(sheet)) out.add(feature);
  }
  return out;
}

/** What of an email is not known everywhere, that which fewest know first. From the data of caniemail.com. */
export function supportOf(html: string): Unsupported[] {
  return [...featuresOf(html)]
    .flatMap((feature) => {
      const programs = Object.hasOwn(notKnownIn, feature) ? (notKnownIn[feature] ?? []) : [];
      return programs.length > 0 ? [{ feature, words: wordsOf(feature), programs }] : [];
    })
    .sort((a, b) => b.programs.length - a.programs.length || a.feature.localeCompare(b.feature));
}
