export {
  fieldSchema,
  fieldText,
  filterNames,
  formatNames,
  plainLocale,
  readTemplate,
  writeField,
  type Field,
  type FilterName,
  type FormatName,
  type MergeContext,
  type TemplatePiece,
} from './fields.ts';
export {
  paragraphs,
  partsOfRich,
  richTextSchema,
  withChips,
  wordColours,
  wordSizes,
  writeRich,
  type Align,
  type WordLook,
  type Inline,
  type Only,
  type RichText,
} from './rich.ts';
export {
  type Block,
  type BlockKindName,
  blockKinds,
  blockParts,
  type BlockParts,
  blockSchema,
  blockTitle,
  coloursOf,
  type Column,
  compileBlock,
  emptinessOf,
  mayHide,
  holdsAs,
  insideOf,
  isLocked,
  mayStand,
  optionalFields,
  type RepeatBlock,
  type RepeatPart,
  PICKED,
  pickedFields,
  repeatParts,
  type PickedItem,
  socialNames,
} from './blocks/index.ts';
export { colorNames, hexOf, lookSchema, type ColorName, type Look, type LookName } from './look.ts';
export { chainsOf, whenSchema, type When } from './when.ts';
export {
  blockList,
  conditionsOfBlock,
  conditionsOfEmail,
  copyBlock,
  findBlock,
  walkBlocks,
  type PlacedBlock,
} from './tree.ts';
export { describedBy, type PageDescription } from './page-description.ts';
export {
  contentOf,
  fieldsIn,
  fieldsWithPlaces,
  itemsPath,
  linksOf,
  readingOnce,
  type Content,
  type Placed,
} from './content.ts';
export {
  emailFields,
  emailModes,
  emailSchema,
  modeOf,
  optionalOfEmail,
  unseenOf,
  type Email,
  type EmailMode,
} from './schema.ts';
export { guessMapping, itemFields, type ItemMapping } from './mapping.ts';
export { networks, plainStyle, type Campaign, type HouseStyle, type Network } from './style.ts';
export { automaticText, compileEmail, layout, previewTemplate, signOf, type CompileOptions } from './compile.ts';
export { inOrder } from './in-order.ts';
export {
  behindOf,
  behindWords,
  materialsOf,
  sharedIn,
  sharedSign,
  type Behind,
  type Materials,
  type Supplies,
} from './materials.ts';
export { AA, AA_LARGE, contrast } from './contrast.ts';
export { canvasFor } from './layout.ts';
export {
  fillPieces,
  fillProgram,
  itemsOf,
  linksToNowhere,
  linkTarget,
  recentEvent,
  recentOf,
  readLinkRef,
  targetOfLink,
  type LinkRef,
  valuesFor,
  type Addresses,
  type FilledEmail,
  type Piece,
  type Program,
  type Values,
} from './program.ts';
export { CompileError } from './split.ts';
export { encodeProgram, fillEncoded, quotedPrintable, type EncodedProgram } from './quoted-printable.ts';
export { escapeHtml, isUntracked, Masks, MASK, type EmailLink, type TimerPlan } from './masks.ts';
export { targetOfTimer } from './timers.ts';
export { cleanPaste } from './paste.ts';
export { supportOf, type Unsupported } from './support.ts';
export { elementsOf, attribute as attributeOf, sourceAsText, textIn } from './source.ts';
export { saidBy } from './said.ts';
export { layouts, type Layout } from './layouts.ts';
export { isLargeWord, wordStyle } from './word-look.ts';
