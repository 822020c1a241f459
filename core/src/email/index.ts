export {
  fieldSchema,
  fieldText,
  filterNames,
  readTemplate,
  writeField,
  type Field,
  type FilterName,
  type MergeContext,
  type TemplatePiece,
} from './fields.ts';
export { paragraphs, partsOfRich, richTextSchema, writeRich, type Inline, type RichText } from './rich.ts';
export {
  blockKinds,
  blockParts,
  blockSchema,
  blockTitle,
  isLocked,
  type Block,
  type BlockKindName,
  type BlockParts,
} from './blocks/index.ts';
export { fieldsIn } from './fields-in.ts';
export { linksOf } from './links.ts';
export { emailSchema, type Email } from './schema.ts';
export { plainStyle, type HouseStyle } from './style.ts';
export { compileEmail, previewTemplate } from './compile.ts';
export {
  CompileError,
  fillPieces,
  fillProgram,
  linkTarget,
  valuesFor,
  type Addresses,
  type FilledEmail,
  type Piece,
  type Program,
  type Values,
} from './program.ts';
export { encodeProgram, fillEncoded, quotedPrintable, type EncodedProgram } from './quoted-printable.ts';
export { escapeHtml, type EmailLink } from './masks.ts';
