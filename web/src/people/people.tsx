import { Download, ListFilter, Plus, Search, X } from 'lucide-react';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { figureSchema, type Figure, type Who } from '@ascenso/contracts';
import { conditionSchema, describe, zoneOf, type Condition } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { ConditionEditor } from '../conditions/index.ts';
import { Button, buttonClass, Dialog, Empty, IconButton, inputClass, number, Sheet } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { AddPerson } from './add-person.tsx';
import { ManyBar } from './many.tsx';
import { usePeopleQuery, type PeopleAsked } from './people-endpoints.ts';
import { PeopleTable } from './people-table.tsx';
import { PeopleTabs } from './people-tabs.tsx';

const PAGE = 50;

/** The condition of the address, or null where there is none that can be read. */
function ruleIn(text: string | null): Condition | null {
  if (!text) return null;
  try {
    return conditionSchema.parse(JSON.parse(text));
  } catch {
    return null;
  }
}

/** The figure of the address, or null where there is none that can be read. */
function figureIn(text: string | null): Figure | null {
  try {
    return text ? figureSchema.parse(JSON.parse(text)) : null;
  } catch {
    return null;
  }
}

/** Says who is shown: whoever fits a condition. */
function FilterDialog({
  rule,
  save,
  onClose,
}: {
  rule: Condition | null;
  save: (r: Condition | null) => void;
  onClose: () => void;
}) {
  const [draft, setDraft] = useState(rule);
  return (
    <Dialog open onClose={onClose} title="Whom to show" wide>
      <ConditionEditor
        value={draft}
        scope="segment"
        doc={null}
        sentence={(words) => `Whoever ${words}.`}
        none="Everybody. Add a condition to see fewer."
        save={setDraft}
      />
      <div className="mt-4 flex justify-end">
        <Button
          tone="main"
          onClick={() => {
            save(draft);
            onClose();
          }}
        >
          Show them
        </Button>
      </div>
    </Dialog>
  );
}

/** Whom one has chosen: some of a page, or all who fit. */
interface Chosen {
  ids: ReadonlySet<string>;
  whole: boolean;
}
const NOBODY: Chosen = { ids: new Set(), whole: false };

/** Everybody, or whoever fits: found, ordered, and done something with. */
export function PeopleScreen() {
  const [params, setParams] = useSearchParams();
  const [q, segment, sort] = ['q', 'segment', 'sort'].map((k) => params.get(k) ?? '') as [string, string, string];
  const offset = Number(params.get('from') ?? 0);
  const rule = ruleIn(params.get('rule'));
  const figure = figureIn(params.get('figure'));
  const asked: PeopleAsked = {
    ...(q ? { q } : {}),
    ...(segment ? { segment } : {}),
    ...(rule ? { rule: JSON.stringify(rule) } : {}),
    ...(figure ? { figure: JSON.stringify(figure) } : {}),
  };
  const around = useAround(['segments', 'attributes', 'tags', 'lists']);
  const { data, error } = usePeopleQuery({ ...asked, ...(sort ? { sort } : {}), offset, limit: PAGE });
  const { data: me } = useMeQuery();
  const names = useNames(null);
  const [adding, setAdding] = useState(false);
  const [filtering, setFiltering] = useState(false);
  const [chosen, setChosen] = useState(NOBODY);
  const mayChange = me !== undefined && me.user.role !== 'reviewer';
  const filtered = q !== '' || segment !== '' || rule !== null || figure !== null;
  /** Another question: the page begins anew, and nobody is chosen. */
  const ask = (change: Record<string, string | null>, replace = false) => {
    const next = new URLSearchParams(params);
    for (const [k, v] of Object.entries({ from: null, ...change })) {
      if (v === null || v === '') next.delete(k);
      else next.set(k, v);
    }
    if (!('from' in change) && !('sort' in change)) setChosen(NOBODY);
    setParams(next, { replace });
  };
  const total = data?.total ?? 0;
  const count = chosen.whole ? total : chosen.ids.size;
  const who: Who = chosen.whole
    ? { q, segment: segment || null, rule, figure, count: total }
    : { ids: [...chosen.ids] };
  const exported = (more: Record<string, string>) =>
    `/api/people.csv?${new URLSearchParams({ ...asked, ...more }).toString()}`;
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <h1 className="text-[24px] font-bold">People</h1>
        <p className="flex-1 text-ink-2">{data && `${number(total)} ${filtered ? 'found' : 'in all'}`}</p>
        <PeopleTabs />
      </div>
      <div className="flex flex-wrap items-center gap-3">
        <div className="relative w-64">
          <Search size={15} className="absolute top-2.5 left-2.5 text-ink-2" aria-hidden="true" />
          <input
            aria-label="Find by name or address"
            placeholder="Find by name or address"
            value={q}
            onChange={(e) => ask({ q: e.target.value }, true)}
            className={`${inputClass} pl-8`}
          />
        </div>
        <Button onClick={() => setFiltering(true)}>
          <ListFilter size={15} aria-hidden="true" />
          {rule ? 'Change the condition' : 'Add a condition'}
        </Button>
        {rule && (
          <span className="inline-flex items-center gap-1 rounded-control bg-plum-tint px-2.5 py-1 text-plum">
            Whoever {describe(rule, names)}
            <IconButton name="Take the condition off" onClick={() => ask({ rule: null })}>
              <X size={14} />
            </IconButton>
          </span>
        )}
        {figure && (
          <span className="inline-flex items-center gap-1 rounded-control bg-plum-tint px-2.5 py-1 text-plum">
            {params.get('behind') ?? 'Behind a figure'}
            <IconButton name="Everybody again" onClick={() => ask({ figure: null, behind: null })}>
              <X size={14} />
            </IconButton>
          </span>
        )}
        {segment && (
          <span className="inline-flex items-center gap-1 rounded-control bg-plum-tint px-2.5 py-1 text-plum">
            In “{around?.segments.find((s) => s.id === segment)?.name ?? '…'}”
            <IconButton name="Take the segment off" onClick={() => ask({ segment: null })}>
              <X size={14} />
            </IconButton>
          </span>
        )}
        <span className="flex-1" />
        {total > 0 && mayChange && (
          <a href={exported({})} download className={buttonClass()}>
            <Download size={16} aria-hidden="true" />
            {filtered ? 'Export these' : 'Export all'}
          </a>
        )}
        <Button tone="main" onClick={() => setAdding(true)}>
          <Plus size={16} aria-hidden="true" />
          Add a person
        </Button>
      </div>
      <Sheet className="overflow-x-auto">
        {count > 0 && around && mayChange && (
          <ManyBar
            who={who}
            count={count}
            around={around}
            exported={chosen.whole ? exported({}) : exported({ ids: [...chosen.ids].join(',') })}
            all={
              !chosen.whole && total > chosen.ids.size && data?.people.every((p) => chosen.ids.has(p.id))
                ? { total, choose: () => setChosen({ ids: chosen.ids, whole: true }) }
                : null
            }
            clear={() => setChosen(NOBODY)}
          />
        )}
        {error ? (
          <Empty text={sentence(error)} />
        ) : data && data.people.length === 0 ? (
          <Empty
            text={
              filtered
                ? 'Nobody fits.'
                : 'Nobody is here yet. Bring your own people in from a file, make a form, or add somebody by hand.'
            }
          >
            {!filtered && (
              <Button tone="main" onClick={() => setAdding(true)}>
                Add the first person
              </Button>
            )}
          </Empty>
        ) : (
          around &&
          data && (
            <PeopleTable
              people={data.people}
              around={around}
              zone={zoneOf(me?.workspace.zone ?? 'UTC')}
              sort={sort}
              order={(next) => ask({ sort: next })}
              chosen={chosen.ids}
              whole={chosen.whole}
              choose={(ids) => setChosen({ ids, whole: false })}
            />
          )
        )}
      </Sheet>
      {total > PAGE && (
        <div className="flex items-center justify-end gap-3 text-ink-2">
          {number(offset + 1)} to {number(Math.min(offset + PAGE, total))} of {number(total)}
          <Button disabled={offset === 0} onClick={() => ask({ from: String(Math.max(0, offset - PAGE)) })}>
            Earlier page
          </Button>
          <Button disabled={offset + PAGE >= total} onClick={() => ask({ from: String(offset + PAGE) })}>
            Next page
          </Button>
        </div>
      )}
      <AddPerson open={adding} onClose={() => setAdding(false)} />
      {filtering && (
        <FilterDialog
          rule={rule}
          save={(r) => ask({ rule: r ? JSON.stringify(r) : null })}
          onClose={() => setFiltering(false)}
        />
      )}
    </div>
  );
}
