import { Fragment, useState } from 'react';
import { toast } from 'sonner';
import { startingKinds } from '@ascenso/contracts';
import { type Block } from '@ascenso/core';
import { useSetStyleMutation } from '../../library/endpoints.ts';
import { sentence, useMeQuery } from '../../app/api.ts';
import { FaceGallery, FaceParts } from '../../offers/face-parts.tsx';
import { AfterParts } from '../../offers/after.tsx';
import { Button, Field, inputClass } from '../../ui/index.tsx';
import { Choice } from '../../ui/choice.tsx';
import { useComposer } from '../context.ts';
import { Line, Note } from './parts.tsx';
import { useSet } from '../use-set.ts';
import { MomentField } from '../../ui/moment-field.tsx';
import { ClockChangeNote } from '../../ui/clock-change.tsx';
import { ZoneChoice } from '../../ui/zone-choice.tsx';

type TimerBlock = Extract<Block, { kind: 'timer' }>;

/** What it counts to: the offer of this email, a moment, or a date that the person or the event carries. */
function Target({ block }: { block: TimerBlock }) {
  const { doc, around, step } = useComposer();
  const { data: me } = useMeQuery();
  const set = useSet(block);
  const { to } = block;
  const offer = around.offers.find((o) => o.id === step.email.offer);
  const dates = [
    ...startingKinds(doc, around).flatMap((k) =>
      k.fields
        .filter((f) => f.type === 'date')
        .map((f) => ({ path: `event.${f.name}`, words: `${f.name.replaceAll('_', ' ')} of the event` })),
    ),
    ...around.attributes
      .filter((a) => a.type === 'date')
      .map((a) => ({ path: `subscriber.${a.key}`, words: `${a.label} of the person` })),
  ];
  const zone = me?.workspace.zone ?? 'UTC';
  const kind = (k: string) => {
    const inAWeek = new Date(around.now + 7 * 86_400_000).toISOString().slice(0, 10);
    set(
      'to',
      k === 'offer'
        ? { kind: 'offer' }
        : k === 'date'
          ? { kind: 'date', wall: `${inAWeek}T18:00`, zone }
          : { kind: 'field', path: dates[0]?.path ?? '' },
    );
  };
  return (
    <Fragment>
      <Choice
        label="Counts to"
        part="counts to"
        value={to.kind}
        choose={kind}
        of={[
          { value: 'offer', label: 'the deadline of the offer' },
          { value: 'date', label: 'a moment' },
          { value: 'field', label: 'a date of the person or the event', disabled: dates.length === 0 },
        ]}
      />
      {to.kind === 'offer' && (
        <Note>
          {offer
            ? `“${offer.name}”, until its own moment for each reader.`
            : 'This email makes no offer yet: choose one above the subject.'}
        </Note>
      )}
      {to.kind === 'date' && (
        <>
          <MomentField label="Moment" wall={to.wall} save={(wall) => set('to', { ...to, wall })} />
          <ZoneChoice zone={to.zone} save={(zone) => set('to', { ...to, zone })} />
          <ClockChangeNote zone={to.zone} wall={to.wall} />
        </>
      )}
      {to.kind === 'field' && (
        <Choice
          label="Which date"
          value={to.path}
          choose={(v) => set('to', { kind: 'field', path: v })}
          of={dates.map((d) => ({ value: d.path, label: d.words }))}
        />
      )}
    </Fragment>
  );
}

/** Keeps a face in the house style, so that other emails can take it. */
function KeepFace({ block }: { block: TimerBlock }) {
  const { around } = useComposer();
  const [name, setName] = useState('');
  const [setStyle, { isLoading }] = useSetStyleMutation();
  const keep = async () => {
    const others = around.style.faces.filter((f) => f.name !== name.trim());
    const answer = await setStyle({ faces: [...others, { name: name.trim(), face: block.face }] });
    if (answer.error) return void toast.error(sentence(answer.error));
    toast.success(`“${name.trim()}” is a face of the house now.`);
    setName('');
  };
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void keep();
      }}
    >
      <Field label="Keep this face in the house style">
        {(id) => (
          <input
            id={id}
            value={name}
            placeholder="Our timer"
            onChange={(e) => setName(e.target.value)}
            className={inputClass}
          />
        )}
      </Field>
      <Button type="submit" disabled={isLoading || name.trim() === ''}>
        Keep
      </Button>
    </form>
  );
}

export function TimerPanel({ block }: { block: TimerBlock }) {
  const { around } = useComposer();
  const set = useSet(block);
  const own = block.to.kind !== 'offer' || block.after !== null;
  return (
    <>
      <Target block={block} />
      <Line
        block={block}
        field="says"
        label="Words before the deadline (alt text, plain text)"
        part="says"
        value={block.says}
        placeholder="Closes on"
      />
      <p className="text-[12px] text-ink-2">Face</p>
      <FaceGallery face={block.face} style={around.style} save={(f) => set('face', f)} />
      <details>
        <summary className="cursor-pointer text-[13px] font-semibold">Make the face your own</summary>
        <div className="mt-3 flex flex-col gap-4">
          <FaceParts face={block.face} style={around.style} save={(f) => set('face', f)} />
          <KeepFace block={block} />
        </div>
      </details>
      {block.to.kind === 'offer' && (
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={own}
            onChange={(e) => set('after', e.target.checked ? { kind: 'zeros' } : null)}
          />
          Ends otherwise than the offer says
        </label>
      )}
      {own && <AfterParts after={block.after ?? { kind: 'zeros' }} save={(a) => set('after', a)} />}
    </>
  );
}
