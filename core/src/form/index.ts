export { ASKED_EVENT, FORM_EVENT, formSchema, type FormField, type OptionSets, type SignUpForm } from './schema.ts';
export { nameBeforeConfirming, readAnswers, type FormAnswers, type FormFault } from './answers.ts';
export { blankForm, confirmationOf } from './blank.ts';
