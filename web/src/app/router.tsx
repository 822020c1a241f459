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
          { index: true, lazy: screen(() => import('../plan/plan.tsx'), 'PlanView') },
          { path: 'calendar', lazy: screen(() => import('../calendar/calendar.tsx'), 'CalendarView') },
          { path: 'numbers', lazy: screen(() => import('../numbers/numbers.tsx'), 'NumbersView') },
        ],
      },
      {
        path: 'sequences/:id/emails/:step',
        lazy: screen(() => import('../composer/composer.tsx'), 'ComposerScreen'),
      },
      { path: 'library', lazy: screen(() => import('../library/library.tsx'), 'LibraryScreen') },
      { path: 'people', lazy: screen(() => import('../people/people.tsx'), 'PeopleScreen') },
      { path: 'people/segments', lazy: screen(() => import('../people/segments.tsx'), 'SegmentsScreen') },
      { path: 'people/events', lazy: screen(() => import('../people/events.tsx'), 'EventsScreen') },
      { path: 'people/:id', lazy: screen(() => import('../people/person.tsx'), 'PersonScreen') },
      { path: 'outside', lazy: screen(() => import('../outside/outside.tsx'), 'OutsideScreen') },
      { path: 'outside/:message', lazy: screen(() => import('../outside/outside.tsx'), 'OutsideScreen') },
    ],
  },
]);
