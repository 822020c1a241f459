import type { ReactNode } from 'react';
import type { Block, BlockKindName } from '@ascenso/core';
import { ArticlePanel } from './article.tsx';
import { ButtonPanel } from './button.tsx';
import { CodePanel } from './code.tsx';
import { ColumnsPanel } from './columns.tsx';
import { FooterPanel } from './footer.tsx';
import { HeadingPanel } from './heading.tsx';
import { HtmlPanel } from './html.tsx';
import { ImagePanel } from './image.tsx';
import { LinksPanel } from './links.tsx';
import { ListPanel } from './list.tsx';
import { QuotePanel } from './quote.tsx';
import { RepeatPanel } from './repeat.tsx';
import { SectionPanel } from './section.tsx';
import { SharedPanel } from './shared.tsx';
import { SignaturePanel } from './signature.tsx';
import { SpacerPanel } from './spacer.tsx';
import { TablePanel } from './table.tsx';
import { VideoPanel } from './video.tsx';
import { Note, type Of } from './parts.tsx';
import { TimerPanel } from './timer.tsx';

type Panel<K extends BlockKindName> = (props: { block: Of<K> }) => ReactNode;

/** A kind whose panel only says where its words or its look are set. */
const note = (words: string): (() => ReactNode) =>
  function NotePanel() {
    return <Note>{words}</Note>;
  };

/** Settings of what a block says, by kind; its look and who sees it are the same for every kind, and come behind. */
const panels: { [K in BlockKindName]: Panel<K> } = {
  text: note('Write on the page. Type {{ for a merge field, / in an empty line for another block.'),
  heading: HeadingPanel,
  image: ImagePanel,
  button: ButtonPanel,
  links: LinksPanel,
  list: ListPanel,
  quote: QuotePanel,
  article: ArticlePanel,
  table: TablePanel,
  video: VideoPanel,
  code: CodePanel,
  timer: TimerPanel,
  divider: note('A thin line, in the house style.'),
  spacer: SpacerPanel,
  logo: note('Shows the logo of the house style, or the brand in words. It is set once, under Library.'),
  social: note('Shows the links of the house style. They are set once, under Library.'),
  signature: SignaturePanel,
  html: HtmlPanel,
  columns: ColumnsPanel,
  section: SectionPanel,
  repeat: RepeatPanel,
  shared: SharedPanel,
  footer: FooterPanel,
};

/** Settings of what a block says. */
export function BlockPanel({ block }: { block: Block }) {
  const OfKind = panels[block.kind] as Panel<BlockKindName>;
  return <OfKind block={block} />;
}
