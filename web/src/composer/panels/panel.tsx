import { ArrowLeftRight, Plus, X } from 'lucide-react';
import { listsFor, startingKinds } from '@ascenso/contracts';
import {
  guessMapping,
  isUnique,
  itemFields,
  itemsOf,
  recentEvent,
  repeatParts,
  type Block,
  type BlockKindName,
  type Column,
  type ItemMapping,
  type RepeatBlock,
  type RepeatPart,
} from '@ascenso/core';
import { useChangeMutation } from '../../app/api.ts';
import { useAct } from '../../app/store.ts';
import { edit } from '../../app/draft.ts';
import { Button, Field, IconButton, inputClass, Select } from '../../ui/index.tsx';
import { newId } from '../../ui/names.ts';
import { useComposer } from '../context.ts';
import { LineEditor } from '../editors.tsx';
import { FileChoice } from '../file-choice.tsx';
import { HtmlEditor } from '../html-editor.tsx';
import { ColumnCondition } from '../who-sees.tsx';
import { Line, Note, Px, useSet } from './parts.tsx';
import { TimerPanel } from './timer-panel.tsx';

type Of<K extends BlockKindName> = Extract<Block, { kind: K }>;

function Picture({ block, label, shown }: { block: Of<'image' | 'video' | 'article'>; label: string; shown: number }) {
  const { step, around } = useComposer();
  const dispatch = useAct();
  // What the library says of a picture comes with it.
  const choose = (id: string) => {
    const alt = around.files.find((f) => f.id === id)?.alt;
    const field = (name: string, value: string) => ({
      type: 'block.set' as const,
      step: step.id,
      block: block.id,
      field: name,
      value,
    });
    dispatch(edit([field('file', id), ...(alt && !block.alt ? [field('alt', alt)] : [])]));
  };
  return <FileChoice files={around.files} label={label} value={block.file} images choose={choose} shown={shown} />;
}

/** An address to open: a page, a place to write to, or a file of ours. */
function Target({ block, field, value, part }: { block: Block; field: string; value: string; part: string }) {
  const { around } = useComposer();
  const set = useSet(block);
  const isFile = value.startsWith('file:');
  return (
    <>
      <Select
        label="It opens"
        value={isFile ? 'file' : 'address'}
        onChange={(e) =>
          set(
            field,
            e.target.value === 'file' ? `file:${around.files.find((f) => !f.mime.startsWith('image/'))?.id ?? ''}` : '',
          )
        }
      >
        <option value="address">a page</option>
        <option value="file">a file of ours</option>
      </Select>
      {isFile ? (
        <FileChoice
          files={around.files}
          label="File"
          value={value.slice(5)}
          images={false}
          choose={(id) => set(field, `file:${id}`)}
        />
      ) : (
        <Line block={block} field={field} label="Address" part={part} value={value} placeholder="https://" />
      )}
    </>
  );
}

function ImagePanel({ block }: { block: Of<'image'> }) {
  const set = useSet(block);
  return (
    <>
      <Picture block={block} label="Picture" shown={block.width} />
      {!block.file && (
        <Line
          block={block}
          field="address"
          label="Or from an address"
          part="picture address"
          value={block.address ?? ''}
          placeholder="https:// or a merge field"
        />
      )}
      <Line
        block={block}
        field="alt"
        label="Alt text"
        part="alt text"
        value={block.alt}
        placeholder="What the picture shows"
      />
      <Line
        block={block}
        field="link"
        label="Link (if it leads somewhere)"
        part="link"
        value={block.link}
        placeholder="https://"
      />
      <Px label="Width" value={block.width} save={(v) => v !== null && set('width', v)} />
    </>
  );
}

function ListPanel({ block }: { block: Of<'list'> }) {
  const set = useSet(block);
  const put = (i: number, v: string) =>
    set(
      'items',
      block.items.map((item, at) => (at === i ? v : item)),
    );
  return (
    <>
      <Select label="Each point has" value={block.marker} onChange={(e) => set('marker', e.target.value)}>
        <option value="tick">a tick</option>
        <option value="dash">a dash</option>
        <option value="number">a number</option>
      </Select>
      {block.items.map((item, i) => (
        <div key={i} className="flex items-end gap-1">
          <LineEditor label={`Point ${i + 1}`} part={`item ${i + 1}`} value={item} save={(v) => put(i, v)} />
          <IconButton
            name={`Take out point ${i + 1}`}
            disabled={block.items.length === 1}
            onClick={() =>
              set(
                'items',
                block.items.filter((_, at) => at !== i),
              )
            }
          >
            <X size={14} />
          </IconButton>
        </div>
      ))}
      <Button tone="quiet" className="self-start" onClick={() => set('items', [...block.items, ''])}>
        <Plus size={14} aria-hidden="true" />
        Another point
      </Button>
    </>
  );
}

function TablePanel({ block }: { block: Of<'table'> }) {
  const set = useSet(block);
  const { rows } = block;
  const width = rows[0]?.length ?? 1;
  const put = (i: number, k: number, v: string) =>
    set(
      'rows',
      rows.map((r, at) => (at === i ? r.map((c, n) => (n === k ? v : c)) : r)),
    );
  return (
    <>
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={block.head} onChange={(e) => set('head', e.target.checked)} />
        The first row names the columns
      </label>
      {rows.map((row, i) => (
        <div key={i} className="flex items-center gap-1">
          {row.map((cell, k) => (
            <input
              key={k}
              aria-label={`Row ${i + 1}, column ${k + 1}`}
              data-part={`row ${i + 1}, column ${k + 1}`}
              defaultValue={cell}
              onBlur={(e) => e.target.value !== cell && put(i, k, e.target.value)}
              className={`${inputClass} !min-w-0 !px-1.5`}
            />
          ))}
          <IconButton
            name={`Take out row ${i + 1}`}
            disabled={rows.length === 1}
            onClick={() =>
              set(
                'rows',
                rows.filter((_, at) => at !== i),
              )
            }
          >
            <X size={14} />
          </IconButton>
        </div>
      ))}
      <div className="flex flex-wrap gap-1">
        <Button tone="quiet" onClick={() => set('rows', [...rows, Array.from({ length: width }, () => '')])}>
          <Plus size={14} aria-hidden="true" />
          Row
        </Button>
        <Button
          tone="quiet"
          disabled={width >= 6}
          onClick={() =>
            set(
              'rows',
              rows.map((r) => [...r, '']),
            )
          }
        >
          <Plus size={14} aria-hidden="true" />
          Column
        </Button>
        <Button
          tone="quiet"
          disabled={width <= 1}
          onClick={() =>
            set(
              'rows',
              rows.map((r) => r.slice(0, -1)),
            )
          }
        >
          Last column out
        </Button>
      </div>
    </>
  );
}

function ArticlePanel({ block }: { block: Of<'article'> }) {
  const set = useSet(block);
  return (
    <>
      <Picture block={block} label="Picture" shown={block.side === 'above' ? 536 : 180} />
      {block.file && <Line block={block} field="alt" label="Alt text" part="alt text" value={block.alt} />}
      <Select label="The picture stands" value={block.side} onChange={(e) => set('side', e.target.value)}>
        <option value="left">left of the words</option>
        <option value="right">right of the words</option>
        <option value="above">above them</option>
      </Select>
      <Line block={block} field="title" label="Title" part="title" value={block.title} />
      <Line block={block} field="summary" label="A few words" part="summary" value={block.summary} />
      <Line block={block} field="address" label="Address" part="address" value={block.address} placeholder="https://" />
      <Line block={block} field="label" label="Words of the link" part="label" value={block.label} />
    </>
  );
}

function ColumnsPanel({ block }: { block: Of<'columns'> }) {
  const set = useSet(block);
  const put = (columns: Column[]) => set('columns', columns);
  const change = (i: number, more: Partial<Column>) =>
    put(block.columns.map((c, at) => (at === i ? (JSON.parse(JSON.stringify({ ...c, ...more })) as Column) : c)));
  return (
    <>
      <Select label="On a phone" value={block.phone} onChange={(e) => set('phone', e.target.value)}>
        <option value="in-order">under each other, in order</option>
        <option value="last-first">under each other, the last first</option>
        <option value="beside">still beside each other</option>
      </Select>
      {block.columns.map((c, i) => (
        <div key={c.id} className="flex flex-col gap-2 rounded-control border border-line p-2.5">
          <div className="flex items-end gap-2">
            <div className="flex-1">
              <Px
                label={`Column ${i + 1}: share of the width`}
                value={c.share}
                unit="parts"
                save={(v) => v !== null && change(i, { share: v })}
              />
            </div>
            <IconButton
              name={`Take out column ${i + 1}`}
              disabled={block.columns.length <= 2}
              onClick={() => put(block.columns.filter((_, at) => at !== i))}
            >
              <X size={14} />
            </IconButton>
          </div>
          <ColumnCondition column={c} save={(condition) => change(i, { condition: condition ?? undefined })} />
        </div>
      ))}
      <div className="flex flex-wrap gap-1">
        <Button
          tone="quiet"
          disabled={block.columns.length >= 4}
          onClick={() => put([...block.columns, { id: newId(), share: 1, blocks: [] }])}
        >
          <Plus size={14} aria-hidden="true" />
          Column
        </Button>
        <Button tone="quiet" onClick={() => put([...block.columns].reverse())}>
          <ArrowLeftRight size={14} aria-hidden="true" />
          Swap the sides
        </Button>
      </div>
    </>
  );
}

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

function RepeatPanel({ block }: { block: RepeatBlock }) {
  const { step, doc, around, reader } = useComposer();
  const dispatch = useAct();
  const [change] = useChangeMutation();
  const set = useSet(block);
  const lists = listsFor(doc, around);
  const listWords = useListWords();
  const own = itemsOf({ list: block.list, limit: 24, sort: null }, reader.context);
  // Real items first; the sample where nobody has begun anything yet.
  const items = own.length > 0 ? own : (lists[block.list] ?? []);
  // What a sample has is there to choose too, though this reader's own items may lack it.
  const fields = itemFields([...items, ...(lists[block.list] ?? [])]);
  const kind = startingKinds(doc, around)[0];
  const remember = (next: Partial<ItemMapping>) => {
    const mapping = {
      picture: block.picture.field,
      title: block.title.field,
      text: block.text.field,
      quantity: block.quantity.field,
      price: block.price.field,
      link: block.link,
      ...next,
    };
    if (kind)
      void change({ url: `/event-kinds/${kind.name}/mapping`, method: 'PUT', body: { list: block.list, mapping } });
  };
  const choose = (list: string) => {
    const guessed = guessMapping(lists[list] ?? []);
    const known =
      kind?.mapping[list] ?? (guessed.title ? guessed : { ...guessed, title: itemFields(lists[list] ?? [])[0] ?? '' });
    const field = (name: string, value: unknown) => ({
      type: 'block.set' as const,
      step: step.id,
      block: block.id,
      field: name,
      value,
    });
    dispatch(
      edit([
        field('list', list),
        field('link', known.link),
        ...repeatParts.map((p) => field(p, { on: known[p] !== '' && p !== 'text', field: known[p] })),
      ]),
    );
  };
  const fieldChoice = (label: string, value: string, save: (v: string) => void, part: string) => (
    <select
      aria-label={label}
      data-part={part}
      value={value}
      onChange={(e) => save(e.target.value)}
      className={`${inputClass} !py-1`}
    >
      <option value="">not there</option>
      {fields.map((f) => (
        <option key={f} value={f}>
          {f}
        </option>
      ))}
    </select>
  );
  if (Object.keys(lists).length === 0)
    return (
      <Note>
        What starts this sequence brings no list. A checkout with its lines would: choose it as the trigger, or give the
        event a sample under People, Events.
      </Note>
    );
  return (
    <>
      <Select label="One for each of" data-part="list" value={block.list} onChange={(e) => choose(e.target.value)}>
        <option value="">choose a list</option>
        {Object.keys(lists).map((l) => (
          <option key={l} value={l}>
            {listWords(l)}
          </option>
        ))}
      </Select>
      {block.list && (
        <>
          {repeatParts.map((p) => (
            <div key={p} className="grid grid-cols-[7.5rem_1fr] items-center gap-2">
              <label className="flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={block[p].on}
                  onChange={(e) => set(p, { ...block[p], on: e.target.checked })}
                />
                {PARTS[p]}
              </label>
              {block[p].on &&
                fieldChoice(
                  `${PARTS[p]} comes from`,
                  block[p].field,
                  (f) => {
                    set(p, { on: true, field: f });
                    remember({ [p]: f });
                  },
                  p,
                )}
            </div>
          ))}
          <div className="grid grid-cols-[7.5rem_1fr] items-center gap-2">
            <span>Leads to</span>
            {fieldChoice(
              'Its address comes from',
              block.link,
              (f) => {
                set('link', f);
                remember({ link: f });
              },
              'link',
            )}
          </div>
          <div className="grid grid-cols-[7.5rem_1fr] items-center gap-2">
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
          <div className="grid grid-cols-2 gap-3">
            <Px label="At most" unit="items" value={block.limit} save={(v) => v !== null && set('limit', v)} />
            <Px label="Beside each other" unit="" value={block.across} save={(v) => v !== null && set('across', v)} />
          </div>
          <Select
            label="Order"
            value={block.sort ? `${block.sort.down ? '-' : ''}${block.sort.field}` : ''}
            onChange={(e) =>
              set(
                'sort',
                e.target.value
                  ? { field: e.target.value.replace(/^-/, ''), down: e.target.value.startsWith('-') }
                  : null,
              )
            }
          >
            <option value="">as it comes</option>
            {fields.flatMap((f) => [
              <option key={f} value={f}>
                {f}, smallest first
              </option>,
              <option key={`-${f}`} value={`-${f}`}>
                {f}, largest first
              </option>,
            ])}
          </Select>
          <Line
            block={block}
            field="none"
            label="When the list is empty"
            part="when it is empty"
            value={block.none}
            placeholder="nothing"
          />
        </>
      )}
    </>
  );
}

function SharedPanel({ block }: { block: Of<'shared'> }) {
  const { around, doc } = useComposer();
  const set = useSet(block);
  const chosen = around.shared.find((s) => s.id === block.shared);
  const elsewhere = chosen?.usedIn.filter((u) => u.name !== doc.name) ?? [];
  const needed = [
    ...new Set((JSON.stringify(chosen?.blocks ?? []).match(/event\.[a-z0-9_]+/gi) ?? []).map((f) => f.slice(6))),
  ];
  return (
    <>
      <Select
        label="Shared block"
        data-part="shared block"
        value={block.shared}
        onChange={(e) => set('shared', e.target.value)}
      >
        <option value="">choose one</option>
        {around.shared.map((s) => (
          <option key={s.id} value={s.id}>
            {s.name}
          </option>
        ))}
      </Select>
      {around.shared.length === 0 && <Note>None yet: choose some blocks, then “Into the library”.</Note>}
      {chosen && (
        <Note>
          {elsewhere.length === 0 ? 'Used nowhere else.' : `Also in ${elsewhere.map((u) => `“${u.name}”`).join(', ')}.`}{' '}
          To change it, take it apart here; you will be asked whether the change is for everywhere.
        </Note>
      )}
      {needed.length > 0 && <Note>It needs an event with {needed.join(', ')}.</Note>}
    </>
  );
}

/** Whose code stands in a code block. */
function CodeNote() {
  const { step, around } = useComposer();
  const offer = around.offers.find((o) => o.id === step.email.offer);
  if (!offer)
    return <Note>This email makes no offer yet: choose one above the subject, and its code stands here.</Note>;
  return (
    <Note>
      {isUnique(offer.offer)
        ? `Each reader has a code of their own of “${offer.name}”. Previews and tests show a sample.`
        : `The code of “${offer.name}”.`}
    </Note>
  );
}

/** Settings of what a block says; its look and who sees it are the same for every kind, and come behind. */
export function BlockPanel({ block }: { block: Block }) {
  const { around } = useComposer();
  const set = useSet(block);
  switch (block.kind) {
    case 'text':
      return <Note>Write on the page. Type {'{{'} for a merge field, / in an empty line for another block.</Note>;
    case 'heading':
      return (
        <>
          <Line block={block} field="text" label="Heading" part="heading" value={block.text} />
          <Select label="Size" value={block.level} onChange={(e) => set('level', Number(e.target.value))}>
            <option value={1}>Title</option>
            <option value={2}>Heading</option>
          </Select>
        </>
      );
    case 'image':
      return <ImagePanel block={block} />;
    case 'button':
      return (
        <>
          <Line
            block={block}
            field="label"
            label="Words on the button"
            part="label"
            value={block.label}
            placeholder="Get the guide"
          />
          <Target block={block} field="address" value={block.address} part="address" />
        </>
      );
    case 'list':
      return <ListPanel block={block} />;
    case 'quote':
      return (
        <Line
          block={block}
          field="by"
          label="Who says it"
          part="who says it"
          value={block.by}
          placeholder="Nobody named"
        />
      );
    case 'article':
      return <ArticlePanel block={block} />;
    case 'table':
      return <TablePanel block={block} />;
    case 'video':
      return (
        <>
          <Picture block={block} label="Still picture" shown={536} />
          <Line block={block} field="alt" label="Alt text" part="alt text" value={block.alt} />
          <Line
            block={block}
            field="address"
            label="Where the film is"
            part="address"
            value={block.address}
            placeholder="https://"
          />
          <Line block={block} field="label" label="Words below it" part="label" value={block.label} />
        </>
      );
    case 'code':
      return (
        <>
          <Line
            block={block}
            field="label"
            label="Words above the code"
            part="label"
            value={block.label}
            placeholder="Your code"
          />
          <Line
            block={block}
            field="note"
            label="Words below it"
            part="note"
            value={block.note}
            placeholder="nothing"
          />
          <CodeNote />
        </>
      );
    case 'timer':
      return <TimerPanel block={block} />;
    case 'divider':
      return <Note>A thin line, in the house style.</Note>;
    case 'spacer':
      return <Px label="Height" value={block.height} save={(v) => v !== null && set('height', v)} />;
    case 'logo':
      return <Note>Shows the logo of the house style, or the brand in words. It is set once, under Library.</Note>;
    case 'social':
      return <Note>Shows the links of the house style. They are set once, under Library.</Note>;
    case 'signature':
      return (
        <>
          <Line
            block={block}
            field="greeting"
            label="Words above the name"
            part="greeting"
            value={block.greeting}
            placeholder="Until tomorrow,"
          />
          <Field label="Shows of the sender, where it is known">
            {() => (
              <div data-part="what it shows" className="flex flex-col gap-1">
                {(['photo', 'role', 'phone', 'page'] as const).map((k) => (
                  <label key={k} className="flex items-center gap-2 capitalize">
                    <input
                      type="checkbox"
                      checked={block.shows[k]}
                      onChange={(e) => set('shows', { ...block.shows, [k]: e.target.checked })}
                    />
                    {k}
                  </label>
                ))}
              </div>
            )}
          </Field>
        </>
      );
    case 'html':
      return <HtmlEditor label="Source" value={block.source} save={(v) => set('source', v)} />;
    case 'columns':
      return <ColumnsPanel block={block} />;
    case 'section':
      return (
        <FileChoice
          files={around.files}
          label="Picture behind it"
          value={block.picture}
          images
          choose={(id) => set('picture', id)}
          shown={600}
        />
      );
    case 'repeat':
      return <RepeatPanel block={block} />;
    case 'shared':
      return <SharedPanel block={block} />;
    case 'footer':
      return (
        <>
          <Line
            block={block}
            field="reason"
            label="Why they get this"
            part="reason"
            value={block.reason}
            placeholder="You asked for our workshop letters."
          />
          <Note>Postal address and unsubscribe link are always there. The address is set once, under Library.</Note>
        </>
      );
  }
}
