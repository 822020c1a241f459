export { ConditionEditor } from './condition-editor.tsx';
export { attributeChoices } from './kinds.ts';
export { FieldTests } from './field-tests.tsx';
