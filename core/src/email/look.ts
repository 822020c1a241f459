import { z } from 'zod';
import type { HouseStyle } from './style.ts';

/** Colours of the house style that a block can take by name: it changes when they do. */
export const colorNames = ['text', 'soft', 'accent', 'onAccent', 'link', 'line', 'sheet', 'page'] as const;
export type ColorName = (typeof colorNames)[number];

const color = z
  .string()
  .regex(new RegExp(`^(#[0-9a-f]{6}|${colorNames.join('|')})$`, 'i'), 'A colour is # and six figures, as #1e5b4e.');

/** What a block does differently from the house style. What is absent is the standard. Sizes are px. */
export const lookSchema = z.strictObject({
  align: z.enum(['left', 'center', 'right']).optional(),
  color: color.optional(),
  background: color.optional(),
  size: z.int('Whole px.').min(10, '10 px at least.').max(72, '72 px at most.').optional(),
  above: z.int('Whole px.').min(0).max(120, '120 px at most.').optional(),
  below: z.int('Whole px.').min(0).max(120, '120 px at most.').optional(),
  radius: z.int('Whole px.').min(0).max(60, '60 px at most.').optional(),
  /** A button as wide as the text. */
  wide: z.boolean().optional(),
});
export type Look = z.infer<typeof lookSchema>;
export type LookName = keyof Look;

/** The hex value of a colour of a look. */
export const hexOf = (value: string, style: HouseStyle): string =>
  value.startsWith('#') ? value : style[value as ColorName];
