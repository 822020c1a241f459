export * from './requests.ts';
export * from './answers.ts';
export * from './people-answers.ts';
export * from './bulk.ts';
export * from './figures.ts';
export * from './forms.ts';
export * from './imports.ts';
export * from './archive.ts';
export * from './find.ts';
export * from './labels.ts';
export * from './money.ts';
export * from './points.ts';
export * from './results.ts';
export * from './running.ts';
export * from './sender-exchange.ts';
export * from './site.ts';
export * from './suppressed.ts';
export * from './surroundings.ts';
export {
  checkContext,
  compiledWith,
  fieldsFor,
  listsFor,
  SENDER_FIELDS,
  sharedOf,
  startingKinds,
} from './check-context.ts';
export { codeHook, intakeDocument, stepHook } from './openapi.ts';
export { namesOf, type Named } from './names.ts';
export {
  importedFileSchema,
  MAX_SEQUENCE_FILE,
  sequenceFileJsonSchema,
  sequenceFileSchema,
  type SequenceFile,
} from './sequence-file.ts';
