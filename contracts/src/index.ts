export * from './requests.ts';
export * from './answers.ts';
export { intakeDocument } from './openapi.ts';
export { namesOf, type Named } from './names.ts';
