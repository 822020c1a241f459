import type { WordLook } from './rich.ts';
import type { HouseStyle } from './style.ts';

/** Size of a stretch of text, px. */
const sizeOf = (size: NonNullable<WordLook['size']>, style: HouseStyle): number =>
  ({ small: Math.max(13, style.size - 3), large: style.headingSize, title: style.titleSize })[size];

/** How a stretch of text looks, as CSS declarations of the house style. */
export const wordStyle = ({ color, size }: WordLook, style: HouseStyle): string =>
  [
    ...(color ? [`color:${style[color]}`] : []),
    ...(size ? [`font-size:${sizeOf(size, style)}px;line-height:1.3`] : []),
  ].join(';');

/** Whether words of that size count as large type (WCAG 2.2, 1.4.3: from 24 px). */
export const isLargeWord = ({ size }: WordLook, style: HouseStyle): boolean =>
  size !== null && sizeOf(size, style) >= 24;
