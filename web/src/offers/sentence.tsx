import {
  blankOffer,
  describeDeadline,
  isUnique,
  oddsOf,
  sampleCode,
  zoneNames,
  alphabets,
  type After,
  type AlphabetName,
  type CodePattern,
  type Deadline,
  type Offer,
} from '@ascenso/core';
import { minuteWords } from '@ascenso/core';
import { useAroundQuery, useMeQuery } from '../app/api.ts';
import { SentencePart } from '../plan/email-parts.tsx';
import { Field, inputClass, number, Select } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { useOfferNames } from './words.ts';

type Save = (some: Partial<Offer>) => void;
const halfHours = Array.from({ length: 48 }, (_, i) => i * 30);

/** A text with its label that saves itself. */
function Text({
  label,
  value,
  save,
  placeholder,
}: {
  label: string;
  value: string;
  save: (v: string) => void;
  placeholder?: string;
}) {
  return (
    <Field label={label}>
      {() => <SavedText label={label} value={value} save={save} {...(placeholder ? { placeholder } : {})} />}
    </Field>
  );
}

function Whole({
  label,
  value,
  min,
  max,
  save,
}: {
  label: string;
  value: number;
  min: number;
  max: number;
  save: (n: number) => void;
}) {
  return (
    <Field label={label}>
      {(id) => (
        <input
          id={id}
          type="number"
          min={min}
          max={max}
          defaultValue={value}
          key={value}
          onBlur={(e) => {
            const n = Math.round(Number(e.target.value));
            if (n !== value && n >= min && n <= max) save(n);
            else e.target.value = String(value);
          }}
          className={`${inputClass} tabular-nums`}
        />
      )}
    </Field>
  );
}

function Gives({ offer, save }: { offer: Offer; save: Save }) {
  const { data: me } = useMeQuery();
  const { discount } = offer;
  const kind = (to: string) =>
    save({
      discount:
        to === 'other'
          ? { kind: 'other' }
          : { kind: to as 'percent' | 'amount', value: discount.kind === 'other' ? 10 : discount.value },
    });
  return (
    <SentencePart width="w-80" words={offer.words}>
      <Text
        label="What is given, as a reader reads it"
        value={offer.words}
        placeholder="10% off one order"
        save={(words) => save({ words })}
      />
      <Select label="What the shop takes off" value={discount.kind} onChange={(e) => kind(e.target.value)}>
        <option value="percent">so many percent</option>
        <option value="amount">an amount in {me?.workspace.currency}</option>
        <option value="other">something else</option>
      </Select>
      {discount.kind !== 'other' && (
        <Field label={discount.kind === 'percent' ? 'Percent' : `Amount, ${me?.workspace.currency ?? ''}`}>
          {(id) => (
            <input
              id={id}
              type="number"
              min={0}
              step={discount.kind === 'percent' ? 1 : 0.01}
              key={discount.value}
              defaultValue={discount.value}
              onBlur={(e) =>
                Number(e.target.value) > 0 && save({ discount: { ...discount, value: Number(e.target.value) } })
              }
              className={inputClass}
            />
          )}
        </Field>
      )}
    </SentencePart>
  );
}

function Pattern({ pattern, save }: { pattern: CodePattern; save: (p: CodePattern) => void }) {
  const set = (some: Partial<CodePattern>) => save({ ...pattern, ...some });
  const odds = oddsOf(pattern, 100_000);
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
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

function CodesPart({ offer, save }: { offer: Offer; save: Save }) {
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
function AtHour({ value, none, save }: { value: number | null; none: string; save: (m: number | null) => void }) {
  return (
    <Select
      label="At"
      value={value ?? ''}
      onChange={(e) => save(e.target.value === '' ? null : Number(e.target.value))}
    >
      <option value="">{none}</option>
      {halfHours.map((m) => (
        <option key={m} value={m}>
          {minuteWords(m)}, their time
        </option>
      ))}
      <option value={1439}>the end of the day</option>
    </Select>
  );
}

function DeadlineParts({ deadline, save }: { deadline: Deadline; save: (d: Deadline) => void }) {
  const { data: around } = useAroundQuery();
  const { data: me } = useMeQuery();
  const kind = (to: string) => {
    if (to === 'never') save({ kind: 'never' });
    else if (to === 'fixed')
      save({
        kind: 'fixed',
        wall: new Date((around?.now ?? Date.now()) + 7 * 86_400_000).toISOString().slice(0, 11) + '18:00',
        zone: me?.workspace.zone ?? 'UTC',
      });
    else if (to === 'attribute')
      save({
        kind: 'attribute',
        field: around?.attributes.find((a) => a.type === 'date')?.key ?? '',
        days: 0,
        minute: null,
      });
    else
      save({
        kind: 'after',
        from: to as 'email',
        event: to === 'event' ? (around?.kinds[0]?.name ?? '') : '',
        amount: 48,
        unit: 'hours',
        minute: null,
      });
  };
  return (
    <>
      <Select
        label="It closes"
        value={deadline.kind === 'after' ? deadline.from : deadline.kind}
        onChange={(e) => kind(e.target.value)}
      >
        <option value="email">some time after the first email that gives it</option>
        <option value="entry">some time after joining the sequence</option>
        <option value="event">some time after an event</option>
        <option value="fixed">at one moment for everyone</option>
        <option value="attribute">by a date of the person</option>
        <option value="never">never</option>
      </Select>
      {deadline.kind === 'after' && (
        <>
          {deadline.from === 'event' && (
            <Select
              label="Which event, the last time"
              value={deadline.event}
              onChange={(e) => save({ ...deadline, event: e.target.value })}
            >
              {around?.kinds.map((k) => (
                <option key={k.name} value={k.name}>
                  {k.label}
                </option>
              ))}
            </Select>
          )}
          <div className="grid grid-cols-2 gap-3">
            <Whole
              label="How many"
              value={deadline.amount}
              min={0}
              max={365}
              save={(amount) => save({ ...deadline, amount })}
            />
            <Select
              label="Of"
              value={deadline.unit}
              onChange={(e) =>
                save({
                  ...deadline,
                  unit: e.target.value as 'hours',
                  ...(e.target.value === 'hours' ? { minute: null } : {}),
                })
              }
            >
              {['hours', 'days', 'weeks'].map((u) => (
                <option key={u}>{u}</option>
              ))}
            </Select>
          </div>
          {deadline.unit !== 'hours' && (
            <AtHour value={deadline.minute} none="the hour it began" save={(minute) => save({ ...deadline, minute })} />
          )}
        </>
      )}
      {deadline.kind === 'fixed' && (
        <>
          <Field label="Moment">
            {(id) => (
              <input
                id={id}
                type="datetime-local"
                value={deadline.wall}
                onChange={(e) => e.target.value && save({ ...deadline, wall: e.target.value.slice(0, 16) })}
                className={inputClass}
              />
            )}
          </Field>
          <Select
            label="In the time of"
            value={deadline.zone}
            onChange={(e) => save({ ...deadline, zone: e.target.value })}
          >
            {zoneNames.map((z) => (
              <option key={z}>{z}</option>
            ))}
          </Select>
        </>
      )}
      {deadline.kind === 'attribute' && (
        <>
          <Select
            label="Which date"
            value={deadline.field}
            onChange={(e) => save({ ...deadline, field: e.target.value })}
          >
            <option value="">choose one</option>
            {around?.attributes
              .filter((a) => a.type === 'date')
              .map((a) => (
                <option key={a.key} value={a.key}>
                  {a.label}
                </option>
              ))}
          </Select>
          <Whole
            label="Days after it (less than 0 for before)"
            value={deadline.days}
            min={-365}
            max={365}
            save={(days) => save({ ...deadline, days })}
          />
          <AtHour value={deadline.minute} none="the date’s own time" save={(minute) => save({ ...deadline, minute })} />
        </>
      )}
    </>
  );
}

/** What stands in place of a timer that is over. */
export function AfterParts({ after, save }: { after: After; save: (a: After) => void }) {
  const { data: around } = useAroundQuery();
  const pictures = around?.files.filter((f) => f.mime.startsWith('image/')) ?? [];
  const kind = (to: string) =>
    save(
      to === 'message'
        ? { kind: 'message', text: 'This offer has closed.' }
        : to === 'picture'
          ? { kind: 'picture', file: pictures[0]?.id ?? '' }
          : { kind: to as 'zeros' },
    );
  return (
    <>
      <Select label="When it is over, the timer" value={after.kind} onChange={(e) => kind(e.target.value)}>
        <option value="zeros">stays at zero</option>
        <option value="message">says something</option>
        <option value="picture">is another picture</option>
        <option value="gone">is gone</option>
      </Select>
      {after.kind === 'message' && (
        <Text label="It says" value={after.text} save={(text) => text.trim() && save({ kind: 'message', text })} />
      )}
      {after.kind === 'picture' && (
        <Select
          label="Which picture"
          value={after.file}
          onChange={(e) => save({ kind: 'picture', file: e.target.value })}
        >
          {pictures.map((f) => (
            <option key={f.id} value={f.id}>
              {f.name}
            </option>
          ))}
        </Select>
      )}
    </>
  );
}

/** The whole offer as one sentence with parts to click. */
export function OfferSentence({ offer, email, save }: { offer: Offer; email: string | null; save: Save }) {
  const names = useOfferNames();
  const { after, deadline } = offer;
  const over = {
    zeros: 'stays at zero',
    message: `says “${after.kind === 'message' ? after.text : ''}”`,
    picture: 'is another picture',
    gone: 'is gone',
  }[after.kind];
  return (
    <p className="text-[16px] leading-8">
      Gives <Gives offer={offer} save={save} /> with <CodesPart offer={offer} save={save} />; closes{' '}
      <SentencePart width="w-96" words={describeDeadline(deadline, { ...names([]), email })}>
        <DeadlineParts deadline={deadline} save={(d) => save({ deadline: d })} />
      </SentencePart>
      . Once it is over, its timer{' '}
      <SentencePart width="w-80" words={over}>
        <AfterParts after={after} save={(a) => save({ after: a })} />
      </SentencePart>
      .
    </p>
  );
}
