import { PenLine } from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { PersonAnswer } from '@ascenso/contracts';
import { useAround } from '../app/around.ts';
import { api, sentence } from '../app/api.ts';
import { useTemplatesQuery } from '../composer/endpoints.ts';
import { personName } from '../composer/reader.tsx';
import { Choice } from '../ui/choice.tsx';
import { Button, Dialog } from '../ui/index.tsx';

const { useBeginLetterMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    beginLetter: b.mutation<
      { sequence: string; step: string },
      { person: string; template: string | null; list: string | null }
    >({
      query: ({ person, ...body }) => ({ url: `/people/${person}/letters`, method: 'POST', body }),
    }),
  }),
});

/** One email to one person: begun from nothing or from a template, written in the composer, sent from there. */
export function WriteLetter({ person, lists }: Pick<PersonAnswer, 'person' | 'lists'>) {
  const [open, setOpen] = useState(false);
  const around = useAround(['lists', 'senders']);
  const { data: kept } = useTemplatesQuery(undefined, { skip: !open });
  const theirs = around?.lists.filter((l) => lists.some((m) => m.id === l.id && m.state === 'confirmed')) ?? [];
  const [template, setTemplate] = useState('');
  const [list, setList] = useState<string | null>(null);
  const [begin, { isLoading }] = useBeginLetterMutation();
  const navigate = useNavigate();
  const under = list ?? (person.mailStatus === 'ok' ? theirs[0]?.id : '') ?? '';
  const go = async () => {
    const answer = await begin({ person: person.id, template: template || null, list: under || null });
    if (answer.error) return void toast.error(sentence(answer.error));
    void navigate(`/sequences/${answer.data.sequence}/emails/${answer.data.step}`);
  };
  return (
    <>
      <Button onClick={() => setOpen(true)} disabled={person.mailStatus === 'bounced'}>
        <PenLine size={15} aria-hidden="true" />
        Write to them
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} title={`One email to ${personName(person)}`}>
        <div className="flex flex-col gap-3">
          <Choice
            label="Begin with"
            value={template}
            choose={setTemplate}
            of={[
              { value: '', label: 'An empty page' },
              ...(kept?.templates.map((t) => ({ value: t.id, label: t.name, group: 'Templates' })) ?? []),
            ]}
          />
          <Choice
            label="It goes to them as"
            value={under}
            choose={setList}
            of={[
              ...(person.mailStatus === 'ok'
                ? theirs.map((l) => ({ value: l.id, label: l.name, note: 'mail that they asked for' }))
                : []),
              { value: '', label: 'Service mail', note: 'about their own order, repair or question' },
            ]}
          />
          <p className="text-ink-2">
            It is written and checked like any other email, and goes to nobody else. Nothing is sent before you press
            “Send it” there; their story keeps it.
          </p>
          <div className="flex justify-end">
            <Button tone="main" disabled={isLoading} onClick={() => void go()}>
              Write it
            </Button>
          </div>
        </div>
      </Dialog>
    </>
  );
}
