import { z } from 'zod';

/**
 * Languages that an email can be written in, as BCP 47 tags: the ten that dates and figures are known for, with a region
 * where one spells as the other does not. Plain English takes either spelling.
 */
export const writtenLanguages = [
  'en',
  'en-GB',
  'en-US',
  'pt-PT',
  'pt-BR',
  'es',
  'fr',
  'de',
  'it',
  'nl',
  'pl',
  'sv',
  'da',
] as const;
export const writtenSchema = z.enum(writtenLanguages, 'Choose one of the languages that emails can be written in.');
export type Written = z.infer<typeof writtenSchema>;

/** The way out, as it is commonly written at the foot of an email (common practice, no published source; from memory). */
export const unsubscribeWords: Readonly<Record<Written, string>> = {
  en: 'Unsubscribe',
  'en-GB': 'Unsubscribe',
  'en-US': 'Unsubscribe',
  'pt-PT': 'Cancelar subscrição',
  'pt-BR': 'Cancelar inscrição',
  es: 'Darse de baja',
  fr: 'Se désabonner',
  de: 'Abmelden',
  it: 'Annulla l’iscrizione',
  nl: 'Uitschrijven',
  pl: 'Wypisz się',
  sv: 'Avsluta prenumerationen',
  da: 'Afmeld',
};

const names = new Intl.DisplayNames('en', { type: 'language' });

/** What a language is called in itself. */
export const languageNameIn = (tag: Written): string => {
  const name = new Intl.DisplayNames(tag, { type: 'language' }).of(tag) ?? tag;
  return name.charAt(0).toLocaleUpperCase(tag) + name.slice(1);
};

/** What a language is called in English. */
export const languageName = (tag: Written): string => names.of(tag) ?? tag;
