import { attribute, elementsOf, textIn } from './source.ts';

/** What a page says of itself. '' for what it does not say. */
export interface PageDescription {
  title: string;
  summary: string;
  /** Address of its picture, and what that shows. */
  picture: string;
  alt: string;
}

const tidy = (text: string | undefined, most: number): string =>
  (text ?? '').replace(/\s+/g, ' ').trim().slice(0, most);

/**
 * Reads the description that a page carries for whoever points to it: Open Graph (ogp.me, "Basic Metadata" and "Structured
 * Properties"), and where it has none, its title and its description of HTML (4.2.5.1). `page` is where it was found:
 * addresses in it may be relative.
 */
export function describedBy(html: string, page: string): PageDescription {
  const elements = elementsOf(html);
  const meta = (name: string): string | undefined =>
    elements
      .filter((e) => e.tagName === 'meta' && (attribute(e, 'property') ?? attribute(e, 'name'))?.toLowerCase() === name)
      .map((e) => attribute(e, 'content'))
      .find((content) => content !== undefined && content.trim() !== '');
  const title = elements.find((e) => e.tagName === 'title');
  const image = meta('og:image') ?? meta('og:image:url') ?? '';
  const whole = image && URL.canParse(image.trim(), page) ? new URL(image.trim(), page).href : '';
  return {
    title: tidy(meta('og:title') ?? (title && textIn(title)), 300),
    summary: tidy(meta('og:description') ?? meta('description'), 1000),
    picture: /^https?:/.test(whole) ? whole : '',
    alt: tidy(meta('og:image:alt'), 300),
  };
}
