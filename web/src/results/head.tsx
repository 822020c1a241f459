import type { ReactNode } from 'react';
import { RoomTabs } from '../ui/tabs.tsx';

/** The head of the results: their rooms, and what one room is about. */
export function ResultsHead({ words, children }: { words: string; children?: ReactNode }) {
  return (
    <div className="flex flex-wrap items-center gap-3">
      <h1 className="text-[24px] font-bold">Results</h1>
      <RoomTabs
        name="Rooms of the results"
        rooms={[
          ['/results', 'What came back'],
          ['/results/out', 'What goes out'],
        ]}
      />
      <p className="min-w-40 flex-1 text-ink-2">{words}</p>
      {children}
    </div>
  );
}
