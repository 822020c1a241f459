import type { Surroundings } from '@ascenso/contracts';
import { layouts, type Email } from '@ascenso/core';
import { newId } from '../ui/names.ts';
import type { Drawn } from './preview.ts';
import type { Reading } from './reading.ts';
import { Thumbnail } from './thumbnail.tsx';

/** What an email can be begun from: a template by its id, or a layout that ships. */
export interface Source {
  name: string;
  template: string | null;
  email: Email;
}

/** Layouts that ship, with what each is for. */
export const shipped = layouts.map(({ name, what, mode, build }): Source & { what: string } => ({
  name,
  what,
  template: null,
  email: { sender: '', subject: '', preview: '', blocks: build(newId), ...(mode ? { mode } : {}) },
}));

/** Something to begin from, by its picture. */
export function SourceCard({
  name,
  email,
  words,
  chosen,
  choose,
  around,
  reading,
}: {
  name: string;
  email: Email;
  words: string;
  chosen: boolean;
  choose: () => void;
  around: Drawn & Pick<Surroundings, 'senders'>;
  reading?: Reading;
}) {
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={choose}
      className={`flex flex-col rounded-sheet border p-2 text-left ${chosen ? 'border-spruce bg-spruce-tint' : 'border-line hover:border-spruce-mid'}`}
    >
      <Thumbnail
        email={email}
        title={`To begin from: ${name}`}
        around={around}
        {...(reading === undefined ? {} : { reading })}
      />
      <p className="mt-1.5 w-36 truncate font-semibold">{name}</p>
      <p className="w-36 text-[12px] text-ink-2">{words}</p>
    </button>
  );
}
