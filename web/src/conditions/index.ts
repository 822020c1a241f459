export { ConditionEditor } from './condition-editor.tsx';
export { FieldTests } from './field-tests.tsx';
