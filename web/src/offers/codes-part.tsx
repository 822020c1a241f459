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
import { number, Select } from '../ui/index.tsx';
import { Text, Whole, type Save } from './fields.tsx';

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
        <Whole label="Characters after it" value={pattern.length} min={6} max={16} save={(length) => set({ length })} />
        <Select
          label="Made of"
          value={pattern.alphabet}
          onChange={(e) => set({ alphabet: e.target.value as AlphabetName })}
        >
          {Object.keys(alphabets).map((a) => (
            <option key={a}>{a}</option>
          ))}
        </Select>
        <Select label="Hyphens" value={pattern.group} onChange={(e) => set({ group: Number(e.target.value) })}>
          <option value={0}>none</option>
          <option value={3}>every 3</option>
          <option value={4}>every 4</option>
        </Select>
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
        <Select
          label="Each person gets"
          value={codes.kind}
          onChange={(e) => kind(e.target.value as Offer['codes']['kind'])}
        >
          <option value="made">a code of their own, made here</option>
          <option value="imported">a code of their own, from a file</option>
          <option value="shared">the same code as everyone</option>
          <option value="none">no code</option>
        </Select>
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
            <Select
              label="When no code is left"
              value={empty.kind}
              onChange={(e) =>
                save({
                  empty:
                    e.target.value === 'shared'
                      ? { kind: 'shared', code: 'WELCOME10' }
                      : { kind: e.target.value as 'hold' },
                })
              }
            >
              <option value="hold">the email waits for new ones</option>
              <option value="shared">everybody gets one code</option>
              <option value="without">it goes out without one</option>
            </Select>
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
