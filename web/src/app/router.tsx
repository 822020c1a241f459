import { createBrowserRouter, Navigate } from 'react-router';
import { Shell } from './shell.tsx';
import { SignIn } from './sign-in.tsx';
import { SequencesScreen } from '../sequences/sequences.tsx';
import { SequenceScreen } from '../plan/sequence.tsx';
import { PlanView } from '../plan/plan.tsx';
import { NumbersView } from '../numbers/numbers.tsx';
import { PeopleScreen } from '../people/people.tsx';
import { PersonScreen } from '../people/person.tsx';
import { EventsScreen } from '../people/events.tsx';
import { LibraryScreen } from '../library/library.tsx';
import { OutsideScreen } from '../outside/outside.tsx';

export const router = createBrowserRouter([
  { path: '/sign-in', element: <SignIn /> },
  {
    path: '/',
    element: <Shell />,
    children: [
      { index: true, element: <Navigate to="/sequences" replace /> },
      { path: 'sequences', element: <SequencesScreen /> },
      {
        path: 'sequences/:id',
        element: <SequenceScreen />,
        children: [
          { index: true, element: <PlanView /> },
          { path: 'numbers', element: <NumbersView /> },
        ],
      },
      {
        path: 'sequences/:id/emails/:step',
        lazy: async () => ({ Component: (await import('../composer/composer.tsx')).ComposerScreen }),
      },
      { path: 'library', element: <LibraryScreen /> },
      { path: 'people', element: <PeopleScreen /> },
      { path: 'people/events', element: <EventsScreen /> },
      { path: 'people/:id', element: <PersonScreen /> },
      { path: 'outside', element: <OutsideScreen /> },
      { path: 'outside/:message', element: <OutsideScreen /> },
    ],
  },
]);
