import { z } from 'zod';
import { articleBlock } from './article.ts';
import { buttonBlock } from './button.ts';
import { codeBlock } from './code.ts';
import { dividerBlock } from './divider.ts';
import { footerBlock } from './footer.ts';
import { headingBlock } from './heading.ts';
import { htmlBlock } from './html.ts';
import { imageBlock } from './image.ts';
import { linksBlock } from './links.ts';
import { listBlock } from './list.ts';
import { logoBlock } from './logo.ts';
import { quoteBlock } from './quote.ts';
import { signatureBlock } from './signature.ts';
import { socialBlock } from './social.ts';
import { spacerBlock } from './spacer.ts';
import { tableBlock } from './table.ts';
import { textBlock } from './text.ts';
import { timerBlock } from './timer.ts';
import { videoBlock } from './video.ts';

/** Kinds that hold no others, in the order in which the composer offers them. */
export const leafKinds = {
  text: textBlock,
  heading: headingBlock,
  image: imageBlock,
  button: buttonBlock,
  links: linksBlock,
  list: listBlock,
  quote: quoteBlock,
  article: articleBlock,
  table: tableBlock,
  video: videoBlock,
  code: codeBlock,
  timer: timerBlock,
  divider: dividerBlock,
  spacer: spacerBlock,
  logo: logoBlock,
  social: socialBlock,
  signature: signatureBlock,
  html: htmlBlock,
  footer: footerBlock,
} as const;

type LeafSchema = (typeof leafKinds)[keyof typeof leafKinds]['schema'];
// A record's values are a list of any length to TypeScript: there is at least one kind.
export const leafSchemas = Object.values(leafKinds).map((k) => k.schema) as unknown as [LeafSchema];
export const leafSchema = z.discriminatedUnion('kind', leafSchemas);
