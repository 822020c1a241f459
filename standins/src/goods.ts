/** What the simulated shop sells. Prices are major units of its currency. */
export const KITS = [
  { sku: 'kit-pamphlet', title: 'Pamphlet kit', price: 18 },
  { sku: 'kit-long-stitch', title: 'Long-stitch kit', price: 26 },
  { sku: 'kit-coptic', title: 'Coptic kit', price: 32 },
  { sku: 'paper-cream-120', title: 'Cream paper, 120 g', price: 9 },
  { sku: 'thread-linen', title: 'Waxed linen thread', price: 6 },
];
