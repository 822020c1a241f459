/** What the simulated shop sells. Prices are major units of its currency. */
export const KITS = [
  {
    sku: 'kit-pamphlet',
    title: 'Pamphlet kit',
    price: 18,
    about: 'Three small books with one line of thread each: an evening.',
    holds: [
      'Three folded signatures of cream paper',
      'Three covers, grey, ochre and green',
      'Linen thread and a needle',
    ],
  },
  {
    sku: 'kit-long-stitch',
    title: 'Long-stitch kit',
    price: 26,
    about: 'One sturdy notebook, its thread on show along the spine.',
    holds: ['Eight folded signatures', 'A cover of heavy green paper', 'Waxed thread in two colours, two needles'],
  },
  {
    sku: 'kit-coptic',
    title: 'Coptic kit',
    price: 32,
    about: 'A book that lies open flat, with boards and a chain of stitches.',
    holds: ['Ten folded signatures', 'Two boards, covered in plum cloth', 'Waxed thread and a curved needle'],
  },
  {
    sku: 'paper-cream-120',
    title: 'Cream paper, 120 g',
    price: 9,
    about: 'Fifty sheets, cut so that the grain runs with the fold.',
    holds: ['Fifty sheets, 30 by 21 cm', 'Grain short, for folding', 'Free of acid'],
  },
  {
    sku: 'thread-linen',
    title: 'Waxed linen thread',
    price: 6,
    about: 'Twenty metres, waxed by hand, in rust.',
    holds: ['Twenty metres, three ply', 'Waxed with beeswax'],
  },
];
