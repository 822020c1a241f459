import {
  blankOffer,
  isUnique,
  oddsOf,
  sampleCode,
  alphabets,
  type AlphabetName,
  type CodePattern,
  type Offer,
} from '@ascenso/core';
import { SentencePart } from '../plan/email-parts.tsx';
import { number } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Text, type Save } from './fields.tsx';

function Pattern({ pattern, save }: { pattern: CodePattern; save: (p: CodePattern) => void }) {
  const set = (some: Partial<CodePattern>) => save({ ...pattern, ...some });
  const odds = oddsOf(pattern, 100_000);
  return (
    <>
      <div className="grid grid-cols-[3fr_2fr] gap-3">
        <Text
          label="Begins with"
          value={pattern.prefix}
          placeholder="nothing"
          save={(v) =>
            set({
              prefix: v
                .toUpperCase()
                .replace(/[^A-Z0-9-]/g, '')
                .slice(0, 12),
            })
          }
        />
        <NumberField
          late
          label="Characters after it"
          value={pattern.length}
          least={6}
          most={16}
          save={(length) => set({ length })}
        />
        <Choice
          label="Made of"
          value={pattern.alphabet}
          choose={(v) => set({ alphabet: v as AlphabetName })}
          of={Object.keys(alphabets).map((a) => ({ value: a, label: a }))}
        />
        <Choice
          label="Hyphens"
          value={pattern.group}
          choose={(v) => set({ group: Number(v) })}
          of={[
            { value: 0, label: 'none' },
            { value: 3, label: 'every 3' },
            { value: 4, label: 'every 4' },
          ]}
        />
      </div>
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={pattern.check} onChange={(e) => set({ check: e.target.checked })} />A check
        character, so that a typing error is noticed
      </label>
      <p className="text-[13px] text-ink-2">
        Like <b className="font-mono">{sampleCode({ codes: { kind: 'made', pattern } })}</b>. With 100,000 given out,
        one guess in {odds > 1e6 ? `${number(Math.round(odds / 1e6))} million` : number(Math.round(odds))} hits one
        {odds < 10_000 ? ': too few. Use more characters.' : '.'}
      </p>
    </>
  );
}

/** Where the codes come from, and what happens when they run out. */
export function CodesPart({ offer, save }: { offer: Offer; save: Save }) {
  const { codes, empty } = offer;
  const words = {
    none: 'no code',
    shared: `one code for everyone, ${codes.kind === 'shared' ? codes.code : ''}`,
    imported: 'a code of their own from a file',
    made: 'a code of their own',
  }[codes.kind];
  const blank = blankOffer().codes;
  const kind = (to: Offer['codes']['kind']) =>
    save({ codes: to === 'made' ? blank : to === 'shared' ? { kind: 'shared', code: 'WELCOME10' } : { kind: to } });
  return (
    <>
      <SentencePart width="w-96" words={words}>
        <Choice
          label="Each person gets"
          value={codes.kind}
          choose={(v) => kind(v)}
          of={[
            { value: 'made', label: 'a code of their own, made here' },
            { value: 'imported', label: 'a code of their own, from a file' },
            { value: 'shared', label: 'the same code as everyone' },
            { value: 'none', label: 'no code' },
          ]}
        />
        {codes.kind === 'shared' && (
          <Text
            label="The code"
            value={codes.code}
            save={(code) => save({ codes: { kind: 'shared', code: code.trim() } })}
          />
        )}
        {codes.kind === 'made' && (
          <Pattern pattern={codes.pattern} save={(pattern) => save({ codes: { kind: 'made', pattern } })} />
        )}
        {codes.kind === 'imported' && <p className="text-ink-2">Add the file under Codes, on the right.</p>}
      </SentencePart>
      {codes.kind === 'imported' && isUnique(offer) && (
        <>
          {' '}
          (when none is left,{' '}
          <SentencePart
            width="w-80"
            words={
              empty.kind === 'hold'
                ? 'the email waits for new ones'
                : empty.kind === 'without'
                  ? 'it goes out without one'
                  : `everybody gets ${empty.code}`
            }
          >
            <Choice
              label="When no code is left"
              value={empty.kind}
              choose={(v) =>
                save({
                  empty: v === 'shared' ? { kind: 'shared', code: 'WELCOME10' } : { kind: v as 'hold' },
                })
              }
              of={[
                { value: 'hold', label: 'the email waits for new ones' },
                { value: 'shared', label: 'everybody gets one code' },
                { value: 'without', label: 'it goes out without one' },
              ]}
            />
            {empty.kind === 'shared' && (
              <Text
                label="The code"
                value={empty.code}
                save={(code) => save({ empty: { kind: 'shared', code: code.trim() } })}
              />
            )}
          </SentencePart>
          )
        </>
      )}
    </>
  );
}

/** A minute of the day, or none. */
