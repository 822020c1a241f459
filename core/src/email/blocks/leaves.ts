import { z } from 'zod';
import { articleBlock } from './article.ts';
import { buttonBlock } from './button.ts';
import { codeBlock } from './code.ts';
import { dividerBlock } from './divider.ts';
import { footerBlock } from './footer.ts';
import { headingBlock } from './heading.ts';
import { htmlBlock } from './html.ts';
import { imageBlock } from './image.ts';
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

export const leafSchemas = [
  textBlock.schema,
  headingBlock.schema,
  imageBlock.schema,
  buttonBlock.schema,
  listBlock.schema,
  quoteBlock.schema,
  articleBlock.schema,
  tableBlock.schema,
  videoBlock.schema,
  codeBlock.schema,
  timerBlock.schema,
  dividerBlock.schema,
  spacerBlock.schema,
  logoBlock.schema,
  socialBlock.schema,
  signatureBlock.schema,
  htmlBlock.schema,
  footerBlock.schema,
] as const;
export const leafSchema = z.discriminatedUnion('kind', leafSchemas);
