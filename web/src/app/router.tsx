import type { ComponentType } from 'react';
import { createBrowserRouter, Navigate } from 'react-router';
import { Shell } from './shell.tsx';
import { SignIn } from './sign-in.tsx';
import { SequencesScreen } from '../sequences/sequences.tsx';

/** A screen whose code is fetched when it is first opened. */
const screen =
  <K extends string>(load: () => Promise<Record<K, ComponentType>>, name: K) =>
  async () => ({ Component: (await load())[name] });

export const router = createBrowserRouter([
  { path: '/sign-in', element: <SignIn /> },
  {
    path: '/',
    element: <Shell />,
    hydrateFallbackElement: <p className="p-8 text-ink-2">One moment …</p>,
    children: [
      { index: true, element: <Navigate to="/sequences" replace /> },
      { path: 'sequences', element: <SequencesScreen /> },
      {
        path: 'sequences/:id',
        lazy: screen(() => import('../plan/sequence.tsx'), 'SequenceScreen'),
        children: [
          { index: true, lazy: screen(() => import('../one-off/first-view.tsx'), 'FirstView') },
          { path: 'plan', lazy: screen(() => import('../plan/plan.tsx'), 'PlanView') },
          { path: 'calendar', lazy: screen(() => import('../calendar/calendar.tsx'), 'CalendarView') },
          { path: 'numbers', lazy: screen(() => import('../numbers/numbers.tsx'), 'NumbersView') },
        ],
      },
      {
        path: 'sequences/:id/emails/:step',
        lazy: screen(() => import('../composer/composer.tsx'), 'ComposerScreen'),
      },
      {
        path: 'library',
        lazy: screen(() => import('../library/library.tsx'), 'LibraryScreen'),
        children: [
          { index: true, lazy: screen(() => import('../library/shelf.tsx'), 'ShelfRoom') },
          { path: 'style', lazy: screen(() => import('../library/style.tsx'), 'StyleRoom') },
          { path: 'files', lazy: screen(() => import('../library/files.tsx'), 'FilesRoom') },
          { path: 'senders', lazy: screen(() => import('../library/senders.tsx'), 'SendersRoom') },
          { path: 'forms', lazy: screen(() => import('../library/forms/forms.tsx'), 'FormsRoom') },
        ],
      },
      // `id` is the draft that the template is written in.
      {
        path: 'library/templates/drafts/:id/:step',
        lazy: screen(() => import('../composer/composer.tsx'), 'ComposerScreen'),
      },
      { path: 'library/templates/:id', lazy: screen(() => import('../library/open-template.tsx'), 'OpenTemplate') },
      { path: 'library/forms/:id', lazy: screen(() => import('../library/forms/form.tsx'), 'FormScreen') },
      { path: 'offers', lazy: screen(() => import('../offers/offers.tsx'), 'OffersScreen') },
      { path: 'offers/:id', lazy: screen(() => import('../offers/offer.tsx'), 'OfferScreen') },
      { path: 'review/:id/:step', lazy: screen(() => import('../composer/review-screen.tsx'), 'ReviewScreen') },
      { path: 'people', lazy: screen(() => import('../people/people.tsx'), 'PeopleScreen') },
      { path: 'people/attributes', lazy: screen(() => import('../people/attributes.tsx'), 'AttributesScreen') },
      { path: 'people/import', lazy: screen(() => import('../people/import/imports.tsx'), 'ImportsScreen') },
      { path: 'people/import/:id', lazy: screen(() => import('../people/import/import.tsx'), 'ImportScreen') },
      { path: 'people/lists', lazy: screen(() => import('../people/lists.tsx'), 'ListsScreen') },
      { path: 'people/no-mail', lazy: screen(() => import('../people/suppressed.tsx'), 'SuppressedScreen') },
      { path: 'people/segments', lazy: screen(() => import('../people/segments.tsx'), 'SegmentsScreen') },
      { path: 'people/events', lazy: screen(() => import('../people/events.tsx'), 'EventsScreen') },
      { path: 'people/:id', lazy: screen(() => import('../people/person.tsx'), 'PersonScreen') },
      { path: 'results', lazy: screen(() => import('../results/results.tsx'), 'ResultsScreen') },
      { path: 'results/out', lazy: screen(() => import('../results/outgoing.tsx'), 'OutgoingScreen') },
      { path: 'account', lazy: screen(() => import('../account/account.tsx'), 'AccountScreen') },
      { path: 'outside', lazy: screen(() => import('../outside/outside.tsx'), 'OutsideScreen') },
      { path: 'outside/:message', lazy: screen(() => import('../outside/outside.tsx'), 'OutsideScreen') },
    ],
  },
]);
