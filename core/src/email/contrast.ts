/** Red, green and blue of a colour written as # and six figures, 0 to 255. */
export const channelsOf = (hex: string): [number, number, number] =>
  [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16)) as [number, number, number];

/** Relative luminance of a colour, 0 to 1 (WCAG 2.2, "relative luminance"). */
function luminance(hex: string): number {
  const [r, g, b] = channelsOf(hex).map((v) => {
    const c = v / 255;
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
  }) as [number, number, number];
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

/** Contrast of two colours, 1 to 21 (WCAG 2.2, "contrast ratio"). Colours are # and six figures. */
export function contrast(a: string, b: string): number {
  const [x, y] = [luminance(a), luminance(b)];
  return (Math.max(x, y) + 0.05) / (Math.min(x, y) + 0.05);
}

/** WCAG 2.2, 1.4.3: 4.5 for text, 3 for large text, which begins at 24 px, or at 18.66 px in bold. */
export const AA = 4.5;
export const AA_LARGE = 3;
