import { useState, type FormEvent } from 'react';
import { sentence } from '../app/api.ts';
import { useAddKeyMutation, useKeysQuery, useRevokeKeyMutation } from './people-endpoints.ts';
import { Button, inputClass, Sheet, TextField } from '../ui/index.tsx';

/** Keys of the intake: for servers, and for pages. */
export function Keys() {
  const { data } = useKeysQuery();
  const [add, { error }] = useAddKeyMutation();
  const [revoke] = useRevokeKeyMutation();
  const [fresh, setFresh] = useState<string | null>(null);
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const target = e.currentTarget;
    const form = new FormData(target);
    const origins = String(form.get('origins') ?? '')
      .split(/[\s,]+/)
      .filter(Boolean);
    const name = form.get('name');
    const answer = await add({ name: typeof name === 'string' ? name : '', origins });
    if (!answer.data) return;
    setFresh(answer.data.key);
    target.reset();
  };
  return (
    <Sheet className="p-5">
      <h2 className="mb-1 text-[16px] font-bold">API keys</h2>
      <p className="mb-3 text-ink-2">
        Your shop and site send events and people with a key. The whole intake is described at{' '}
        <a className="underline" href="/intake/openapi.json" target="_blank" rel="noreferrer">
          /intake/openapi.json
        </a>
        .
      </p>
      {fresh && (
        <div className="mb-3 rounded-control bg-ochre-tint p-3">
          <p className="font-semibold text-ochre-text">Copy this key now: it is not shown again.</p>
          <input
            aria-label="New API key"
            readOnly
            value={fresh}
            onFocus={(e) => e.target.select()}
            className={`${inputClass} mt-1 font-mono`}
          />
        </div>
      )}
      <ul className="mb-3">
        {data?.keys.map((k) => (
          <li key={k.id} className="flex items-center gap-3 border-t border-line py-1.5">
            <span className="flex-1 font-semibold">
              {k.name}
              <span className="block text-[13px] font-normal text-ink-2">
                {k.origins.length === 0
                  ? 'For servers: it opens everything, so it never stands in a page.'
                  : `For pages of ${k.origins.join(', ')}: it sends events, and nothing else.`}
              </span>
            </span>
            <span className="text-ink-2">ends in {k.hint}</span>
            <Button tone="danger" onClick={() => void revoke(k.id)}>
              Revoke
            </Button>
          </li>
        ))}
      </ul>
      <form onSubmit={(e) => void submit(e)} className="flex flex-wrap items-end gap-3">
        <TextField label="Name of a new key" name="name" placeholder="Shop" required />
        <div className="w-96">
          <TextField
            label="Pages that use it from a browser (empty for servers)"
            name="origins"
            placeholder="https://foldwell.example"
          />
        </div>
        <Button type="submit">Make a key</Button>
      </form>
      {error && (
        <p role="alert" className="mt-2 font-semibold text-brick">
          {sentence(error)}
        </p>
      )}
    </Sheet>
  );
}
