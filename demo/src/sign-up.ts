import { blankForm, type SignUpForm } from '@ascenso/core';

/** The form on the workshop's page: its letters, and a guide for whoever signs up. */
export const signUpForm = (list: string, guide: string): SignUpForm => ({
  ...blankForm('Five stitches to begin with', list, 'en', true),
  intro: 'A guide of four pages, and a letter from the workshop every other Friday.',
  consent:
    'I would like the letters of Foldwell Bindery by email, and the guide. Every letter has a link by which I can leave.',
  after: {
    kind: 'words',
    title: 'You are on the list',
    text: 'Here is your guide. The first letter is on its way.',
    file: guide,
  },
});
