import { emailSteps, findStep, linksOf, type Atom, type Sequence, type Since } from '@ascenso/core';
import type { Surroundings } from '@ascenso/contracts';
import { inputClass, Select } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { FieldTestParts, FieldTests } from './field-tests.tsx';
import { asksForFile, attributeChoices, type Scope } from './kinds.ts';

interface PartsProps<A> {
  atom: A;
  around: Surroundings;
  doc: Sequence | null;
  scope: Scope;
  save: (a: A) => void;
}
type Of<K extends Atom['kind']> = Extract<Atom, { kind: K }>;

function SinceParts({
  since,
  doc,
  scope,
  save,
}: {
  since: Since;
  doc: Sequence | null;
  scope: Scope;
  save: (s: Since) => void;
}) {
  const value = since.kind === 'step' ? `step ${since.step}` : since.kind;
  const choose = (to: string) => {
    if (to === 'period') save({ kind: 'period', amount: 30, unit: 'days' });
    else if (to.startsWith('step ')) save({ kind: 'step', step: to.slice(5) });
    else save({ kind: to as 'entry' | 'ever' });
  };
  return (
    <div className="flex items-end gap-1">
      <Select label="Since when" value={value} onChange={(e) => choose(e.target.value)}>
        {scope === 'visit' && <option value="entry">since they joined the sequence</option>}
        {scope === 'visit' &&
          doc &&
          emailSteps(doc).map((s) => (
            <option key={s.id} value={`step ${s.id}`}>
              since “{s.name}”
            </option>
          ))}
        <option value="period">in the last …</option>
        <option value="ever">ever</option>
      </Select>
      {since.kind === 'period' && (
        <>
          <input
            aria-label="How many"
            type="number"
            min={1}
            max={999}
            value={since.amount}
            onChange={(e) => Number(e.target.value) >= 1 && save({ ...since, amount: Number(e.target.value) })}
            className={`${inputClass} !w-16`}
          />
          <select
            aria-label="Unit"
            value={since.unit}
            onChange={(e) => save({ ...since, unit: e.target.value as 'days' })}
            className={`${inputClass} !w-24`}
          >
            {['hours', 'days', 'weeks'].map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        </>
      )}
    </div>
  );
}

function EventParts({ atom, around, doc, scope, save }: PartsProps<Of<'event'>>) {
  if (asksForFile(atom))
    return (
      <>
        <Select
          label="Which file"
          value={String(atom.where[0]?.value ?? '')}
          onChange={(e) => save({ ...atom, where: [{ field: 'file', op: 'is', value: e.target.value }] })}
        >
          <option value="">Choose a file …</option>
          {around.files
            .filter((f) => !f.mime.startsWith('image/'))
            .map((f) => (
              <option key={f.id} value={f.id}>
                {f.name}
              </option>
            ))}
        </Select>
        <SinceParts since={atom.since} doc={doc} scope={scope} save={(since) => save({ ...atom, since })} />
      </>
    );
  const { times: _, per: __, ...once } = atom;
  const { per: ___, ...together } = atom;
  const fields = around.kinds.find((k) => k.name === atom.event)?.fields ?? [];
  return (
    <>
      <Select
        label="Which event"
        value={atom.event}
        onChange={(e) => save({ ...atom, event: e.target.value, where: [] })}
      >
        <option value="">Choose an event …</option>
        {around.kinds.map((k) => (
          <option key={k.name} value={k.name}>
            {k.label} ({k.name})
          </option>
        ))}
      </Select>
      <Select
        label="How often"
        value={atom.times ?? 1}
        onChange={(e) => save(Number(e.target.value) > 1 ? { ...atom, times: Number(e.target.value) } : once)}
      >
        <option value={1}>at least once</option>
        {[2, 3, 4, 5, 10].map((n) => (
          <option key={n} value={n}>
            {n} times or more
          </option>
        ))}
      </Select>
      {atom.times && fields.length > 0 && (
        <Select
          label="Counted"
          value={atom.per ?? ''}
          onChange={(e) => save(e.target.value ? { ...atom, per: e.target.value } : together)}
        >
          <option value="">all together</option>
          {fields
            .filter((f) => f.type !== 'list')
            .map((f) => (
              <option key={f.name} value={f.name}>
                for the same {f.name.replaceAll('_', ' ')}
              </option>
            ))}
        </Select>
      )}
      <SinceParts since={atom.since} doc={doc} scope={scope} save={(since) => save({ ...atom, since })} />
      <FieldTests tests={atom.where} fields={fields} save={(where) => save({ ...atom, where })} />
    </>
  );
}

function EmailParts({ atom, doc, around, save }: PartsProps<Of<'email'>>) {
  const step = doc ? findStep(doc, atom.step)?.step : undefined;
  const links = step?.kind === 'email' ? linksOf(step.email) : [];
  const { link: _, ...any } = atom;
  const name = (address: string, label: string) =>
    address.startsWith('file:')
      ? `${label}: ${around.files.find((f) => f.id === address.slice(5))?.name ?? 'a file'}`
      : label === address
        ? address
        : `${label}: ${address}`;
  return (
    <>
      <Select label="Which email" value={atom.step} onChange={(e) => save({ ...any, step: e.target.value })}>
        {doc &&
          emailSteps(doc).map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
      </Select>
      {atom.what === 'clicked' && (
        <Select
          label="Which link"
          value={atom.link ?? ''}
          onChange={(e) => save(e.target.value ? { ...atom, link: e.target.value } : any)}
        >
          <option value="">any link</option>
          {links.map((l) => (
            <option key={l.address} value={l.address}>
              {name(l.address, l.label)}
            </option>
          ))}
        </Select>
      )}
    </>
  );
}

/** The settings of one row, whatever it asks. */
export function RowParts({ atom, ...rest }: PartsProps<Atom>) {
  const { around, save } = rest;
  switch (atom.kind) {
    case 'event':
      return <EventParts atom={atom} {...rest} />;
    case 'email':
      return <EmailParts atom={atom} {...rest} />;
    case 'attribute':
      return (
        <div className="flex items-center gap-1">
          <FieldTestParts test={atom.test} fields={attributeChoices(around)} save={(test) => save({ ...atom, test })} />
        </div>
      );
    case 'tag':
      return (
        <SavedText
          label="Tag"
          value={atom.tag}
          placeholder="kit-owner"
          suggestions={around.tags}
          save={(tag) => save({ ...atom, tag: tag.trim() })}
        />
      );
    case 'list':
      return (
        <Select label="Which list" value={atom.list} onChange={(e) => save({ ...atom, list: e.target.value })}>
          <option value="">Choose a list …</option>
          {around.lists.map((l) => (
            <option key={l.id} value={l.id}>
              {l.name}
            </option>
          ))}
        </Select>
      );
    case 'segment':
      return (
        <Select label="Which segment" value={atom.segment} onChange={(e) => save({ ...atom, segment: e.target.value })}>
          <option value="">Choose a segment …</option>
          {around.segments.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </Select>
      );
    case 'offer':
      return (
        <>
          <Select label="Which offer" value={atom.offer} onChange={(e) => save({ ...atom, offer: e.target.value })}>
            <option value="">Choose an offer …</option>
            {around.offers.map((o) => (
              <option key={o.id} value={o.id}>
                {o.name}
              </option>
            ))}
          </Select>
          <Select
            label="That is"
            value={atom.state}
            onChange={(e) => save({ ...atom, state: e.target.value as 'open' })}
          >
            <option value="open">open</option>
            <option value="closing">open, and closes soon</option>
            <option value="closed">closed, unused</option>
            <option value="used">used</option>
          </Select>
          {atom.state === 'closing' && (
            <div className="flex items-end gap-1">
              <input
                aria-label="Within how many"
                type="number"
                min={1}
                max={999}
                value={atom.within.amount}
                onChange={(e) =>
                  Number(e.target.value) >= 1 &&
                  save({ ...atom, within: { ...atom.within, amount: Number(e.target.value) } })
                }
                className={`${inputClass} !w-16`}
              />
              <select
                aria-label="Unit"
                value={atom.within.unit}
                onChange={(e) => save({ ...atom, within: { ...atom.within, unit: e.target.value as 'days' } })}
                className={`${inputClass} !w-24`}
              >
                {['hours', 'days', 'weeks'].map((u) => (
                  <option key={u}>{u}</option>
                ))}
              </select>
            </div>
          )}
        </>
      );
    case 'points':
      return (
        <div className="flex items-center gap-1">
          <select
            aria-label="Comparison"
            value={atom.op}
            onChange={(e) => save({ ...atom, op: e.target.value as 'over' })}
            className={`${inputClass} !w-24`}
          >
            <option>over</option>
            <option>under</option>
          </select>
          <input
            aria-label="Points"
            type="number"
            value={atom.value}
            onChange={(e) => e.target.value !== '' && save({ ...atom, value: Number(e.target.value) })}
            className={`${inputClass} !w-24`}
          />
        </div>
      );
  }
}
