export { ConditionEditor } from './condition-editor.tsx';
export { attributeChoices, FieldTests } from './field-tests.tsx';
