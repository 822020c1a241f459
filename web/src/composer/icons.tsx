import {
  Box,
  Code,
  Columns2,
  Heading,
  Image,
  Link,
  List,
  Minus,
  MousePointerClick,
  MoveVertical,
  Newspaper,
  PanelBottom,
  Play,
  Quote,
  Repeat,
  Shapes,
  Share2,
  Signature,
  Stamp,
  Table,
  TicketPercent,
  Timer,
  TextAlignStart,
  type LucideIcon,
} from 'lucide-react';
import type { BlockKindName } from '@ascenso/core';

const icons: Record<BlockKindName, LucideIcon> = {
  text: TextAlignStart,
  heading: Heading,
  image: Image,
  button: MousePointerClick,
  links: Link,
  list: List,
  quote: Quote,
  article: Newspaper,
  table: Table,
  video: Play,
  code: TicketPercent,
  timer: Timer,
  divider: Minus,
  spacer: MoveVertical,
  logo: Stamp,
  social: Share2,
  signature: Signature,
  html: Code,
  columns: Columns2,
  section: Box,
  repeat: Repeat,
  shared: Shapes,
  footer: PanelBottom,
};

export function BlockIcon({ kind }: { kind: BlockKindName }) {
  const Icon = icons[kind];
  return <Icon size={15} aria-hidden="true" className="shrink-0" />;
}
