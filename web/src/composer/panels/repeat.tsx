import { listsFor, startingKinds } from '@ascenso/contracts';
import {
  itemFields,
  itemsOf,
  mapRepeat,
  mappingFor,
  PICKED,
  pickedFields,
  recentEvent,
  repeatParts,
  type ItemMapping,
  type RepeatBlock,
  type RepeatPart,
} from '@ascenso/core';
import { useSetMappingMutation } from '../endpoints.ts';
import { edit } from '../../drafts/draft.ts';
import { useAct } from '../../app/store.ts';
import { Choice } from '../../ui/choice.tsx';
import { useComposer } from '../context.ts';
import { LineEditor } from '../editors/index.ts';
import { Picked } from './picked.tsx';
import { Line, Note, Px } from './parts.tsx';
import { useSet } from '../use-set.ts';

const PARTS: Record<RepeatPart, string> = {
  picture: 'Picture',
  title: 'Title',
  text: 'A line of text',
  quantity: 'Quantity',
  price: 'Price',
};

/** A list in words: where it comes from and what it holds. */
function useListWords() {
  const { around } = useComposer();
  return (list: string) => {
    const recent = recentEvent(list);
    if (recent !== null) return `their latest “${around.kinds.find((k) => k.name === recent)?.label ?? recent}”`;
    const name = list.replace(/^\w+\./, '').replaceAll('_', ' ');
    return `${name} of the ${list.startsWith('event.') ? 'event' : 'person'}`;
  };
}

const mappingOf = (block: RepeatBlock): ItemMapping => ({
  picture: block.picture.field,
  title: block.title.field,
  text: block.text.field,
  quantity: block.quantity.field,
  price: block.price.field,
  link: block.link,
});

/** The lists there are, the fields of the items, and how fields are chosen: remembered for the kind of event. */
function useItems(block: RepeatBlock) {
  const { step, doc, around, reader } = useComposer();
  const dispatch = useAct();
  const [setMapping] = useSetMappingMutation();
  const lists = listsFor(doc, around);
  const own = itemsOf({ list: block.list, limit: 24, sort: null }, reader.context);
  const sample = lists[block.list] ?? [];
  const kind = startingKinds(doc, around)[0];
  return {
    lists,
    // Real items first. What a sample has is there to choose too, though this reader's own items may lack it.
    fields: block.list === PICKED ? [...pickedFields] : itemFields([...(own.length > 0 ? own : sample), ...sample]),
    remember: (next: Partial<ItemMapping>) => {
      const mapping = { ...mappingOf(block), ...next };
      if (kind && block.list !== PICKED) void setMapping({ kind: kind.name, list: block.list, mapping });
    },
    choose: (list: string) => {
      if (list === PICKED) {
        const mapping = { picture: 'picture', title: 'title', text: 'text', quantity: '', price: '', link: 'link' };
        const text = { on: true, field: 'text' };
        return void dispatch(
          edit([
            ...mapRepeat(step.id, block.id, list, mapping),
            { type: 'block.set', step: step.id, block: block.id, field: 'text', value: text },
          ]),
        );
      }
      const items = lists[list] ?? [];
      dispatch(edit(mapRepeat(step.id, block.id, list, mappingFor(list, items, kind))));
    },
  };
}

/** One field of the items, chosen by name. */
function FieldOf({
  label,
  part,
  fields,
  value,
  save,
}: {
  label: string;
  part: string;
  fields: readonly string[];
  value: string;
  save: (field: string) => void;
}) {
  return (
    <Choice
      label={label}
      hideLabel
      part={part}
      value={value}
      choose={save}
      of={[{ value: '', label: 'not there' }, ...fields.map((f) => ({ value: f, label: f }))]}
    />
  );
}

const row = 'grid grid-cols-[7.5rem_1fr] items-center gap-2';

/** What of an item is shown, and from which of its fields. */
function Parts({
  block,
  fields,
  remember,
}: { block: RepeatBlock } & Pick<ReturnType<typeof useItems>, 'fields' | 'remember'>) {
  const set = useSet(block);
  return (
    <>
      {repeatParts.map((p) => (
        <div key={p} className={row}>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={block[p].on}
              onChange={(e) => set(p, { ...block[p], on: e.target.checked })}
            />
            {PARTS[p]}
          </label>
          {block[p].on && (
            <FieldOf
              label={`${PARTS[p]} comes from`}
              part={p}
              fields={fields}
              value={block[p].field}
              save={(f) => {
                set(p, { on: true, field: f });
                remember({ [p]: f });
              }}
            />
          )}
        </div>
      ))}
      <div className={row}>
        <span>Leads to</span>
        <FieldOf
          label="Its address comes from"
          part="link"
          fields={fields}
          value={block.link}
          save={(f) => {
            set('link', f);
            remember({ link: f });
          }}
        />
      </div>
      <div className={row}>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={block.button.on}
            disabled={!block.link}
            onChange={(e) => set('button', { ...block.button, on: e.target.checked })}
          />
          A link
        </label>
        {block.button.on && (
          <LineEditor
            label="Its words"
            part="label"
            value={block.button.label}
            save={(label) => set('button', { ...block.button, label })}
          />
        )}
      </div>
    </>
  );
}

/** How many items, beside each other, in which order. */
function Order({ block, fields }: { block: RepeatBlock; fields: readonly string[] }) {
  const set = useSet(block);
  const sorted = (chosen: string) =>
    set('sort', chosen ? { field: chosen.replace(/^-/, ''), down: chosen.startsWith('-') } : null);
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <Px label="At most" unit="items" value={block.limit} save={(v) => v !== null && set('limit', v)} />
        <Px label="Beside each other" unit="" value={block.across} save={(v) => v !== null && set('across', v)} />
      </div>
      <Choice
        label="Order"
        value={block.sort ? `${block.sort.down ? '-' : ''}${block.sort.field}` : ''}
        choose={sorted}
        of={[
          { value: '', label: 'as it comes' },
          ...fields.flatMap((f) => [
            { value: f, label: `${f}, smallest first` },
            { value: `-${f}`, label: `${f}, largest first` },
          ]),
        ]}
      />
    </>
  );
}

/** A list of the person or the event, and which of its fields stand where. */
export function RepeatPanel({ block }: { block: RepeatBlock }) {
  const { lists, fields, remember, choose } = useItems(block);
  const listWords = useListWords();
  return (
    <>
      <Choice
        label="One for each of"
        part="list"
        value={block.list}
        choose={choose}
        of={[
          { value: '', label: 'choose a list' },
          { value: PICKED, label: 'articles that I pick' },
          ...Object.keys(lists).map((l) => ({ value: l, label: listWords(l) })),
        ]}
      />
      {block.list === '' && Object.keys(lists).length === 0 && (
        <Note>
          What starts this sequence brings no list. A checkout with its lines would: choose it as the trigger, or give
          the event a sample under People, Events.
        </Note>
      )}
      {block.list === PICKED && <Picked block={block} />}
      {block.list && (
        <>
          <Parts block={block} fields={fields} remember={remember} />
          <Order block={block} fields={fields} />
          {block.list !== PICKED && (
            <Line
              block={block}
              field="none"
              label="When the list is empty"
              part="when it is empty"
              value={block.none}
              placeholder="nothing"
            />
          )}
        </>
      )}
    </>
  );
}
