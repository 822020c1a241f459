import { languageName, writtenLanguages } from '@ascenso/core';

/** Languages that an email can be written in, by name. */
export const languageChoices = writtenLanguages.map((tag) => ({ tag, name: languageName(tag) }));
