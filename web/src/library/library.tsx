import { Outlet, useOutletContext } from 'react-router';
import type { Surroundings } from '@ascenso/contracts';
import { useAround } from '../app/around.ts';
import { BehindSheet } from './behind.tsx';
import { RoomTabs } from '../ui/tabs.tsx';

const rooms = [
  ['/library', 'Templates and shared blocks'],
  ['/library/style', 'House style'],
  ['/library/files', 'Files and pictures'],
  ['/library/senders', 'Senders'],
  ['/library/forms', 'Forms'],
] as const;

const PARTS = ['style', 'files', 'senders', 'shared', 'sequences', 'offers'] as const;

/** What every email draws on, in rooms. */
export function LibraryScreen() {
  const around = useAround(PARTS, { fresh: true });
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-6">
        <h1 className="text-[24px] font-bold">Library</h1>
        <RoomTabs name="Library" rooms={rooms} />
      </div>
      <BehindSheet />
      {around ? <Outlet context={around} /> : <p className="text-ink-2">Opening the library …</p>}
    </div>
  );
}

export const useLibrary = () => useOutletContext<Pick<Surroundings, (typeof PARTS)[number]>>();
