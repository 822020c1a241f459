import { toast } from 'sonner';
import type { SiteAnswer } from '@ascenso/contracts';
import { momentWords, zoneOf } from '@ascenso/core';
import { api, sentence, useMeQuery } from '../app/api.ts';
import { around } from '../app/tags.ts';
import { Button, Field, inputClass, number, Sheet } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';

const { useSiteQuery, useSetSiteMutation } = api.enhanceEndpoints({ addTagTypes: ['site'] }).injectEndpoints({
  endpoints: (b) => ({
    site: b.query<SiteAnswer, void>({ query: () => '/site', providesTags: ['site'] }),
    setSite: b.mutation<object, { hosts: string[] }>({
      query: (body) => ({ url: '/site', method: 'PUT', body }),
      invalidatesTags: ['site', ...around('kinds')],
    }),
  }),
});

/** Pages of one's own: where they are, the script they carry, and what came of it. */
export function Site() {
  const { data } = useSiteQuery();
  const { data: me } = useMeQuery();
  const [set] = useSetSiteMutation();
  if (!data) return null;
  const save = async (typed: string) => {
    const answer = await set({ hosts: typed.split(/[\s,]+/).filter(Boolean) });
    if (answer.error) toast.error(sentence(answer.error));
  };
  const copy = () =>
    void navigator.clipboard.writeText(data.snippet).then(
      () => toast.success('Copied.'),
      () => toast.error('The browser did not let us copy: select it, and copy it by hand.'),
    );
  const seen =
    data.last === null
      ? 'No page has told us anything yet.'
      : `${number(data.pages)} ${data.pages === 1 ? 'page' : 'pages'} reached so far by people who are known, the last ${momentWords(zoneOf(me?.workspace.zone ?? 'UTC'), data.last)}.`;
  return (
    <Sheet className="flex flex-col gap-3 p-5">
      <div>
        <h2 className="mb-1 text-[16px] font-bold">Pages of your site</h2>
        <p className="text-ink-2">
          A page that carries this script tells who has reached it: somebody who came by a link of one of your emails,
          or from a form of yours. It starts sequences, and conditions can ask for it.
        </p>
      </div>
      <Field label="Hosts of your site, parted by commas; what lies below one belongs to it">
        {() => (
          <SavedText
            label="Hosts of your site"
            value={data.hosts.join(', ')}
            placeholder="foldwell.example"
            save={(v) => void save(v)}
          />
        )}
      </Field>
      <Field label="Put this into the head of every page">
        {(id) => (
          <span className="flex gap-2">
            <input
              id={id}
              readOnly
              value={data.snippet}
              onFocus={(e) => e.target.select()}
              className={`${inputClass} font-mono text-[13px]`}
            />
            <Button onClick={copy}>Copy it</Button>
          </span>
        )}
      </Field>
      <p className="text-[13px] text-ink-2">
        It sets no cookie by itself. While <code>ascenso.known</code> is true, your page can ask; once a reader has
        agreed, it says <code>ascenso.consent(true)</code>, and later visits of theirs are known for 90 days;{' '}
        <code>ascenso.consent(false)</code> forgets them. A page that changes without loading anew says{' '}
        <code>ascenso.reached()</code>. What stands behind the ? of an address is not kept.
      </p>
      <p>{data.hosts.length === 0 ? 'Name a host first: until then every page is refused.' : seen}</p>
    </Sheet>
  );
}
