import {
  Archive,
  ClipboardCopy,
  Copy,
  FileDown,
  History,
  MoreHorizontal,
  Pause,
  Trash2,
  UserPen,
  UserPlus,
} from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { emailSteps, planText, type Sequence } from '@ascenso/core';
import type { SequenceAnswer, Surroundings } from '@ascenso/contracts';
import { useAround } from '../app/around.ts';
import { sentence } from '../app/api.ts';
import { ExchangeSender } from '../senders/exchange.tsx';
import { useAddSequenceMutation } from '../sequences/endpoints.ts';
import { useSetStatusMutation } from './endpoints.ts';
import { settled } from '../drafts/draft.ts';
import { useAct } from '../app/store.ts';
import { ActionMenu, type MenuEntry } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { useDelete } from '../ui/use-delete.ts';
import { AddPeopleDialog, ArchiveDialog } from './running-dialogs.tsx';
import { VersionsDialog } from './versions-dialog.tsx';

/** The sender that most emails of a sequence are from. */
function senderIn(doc: Sequence, senders: Surroundings['senders']): string {
  const usual = senders.find((s) => s.isDefault)?.id ?? '';
  const all = emailSteps(doc).map((e) => e.email.sender || usual);
  const most = (id: string) => all.filter((s) => s === id).length;
  return [...all].sort((a, b) => most(b) - most(a))[0] ?? usual;
}

/** What can be done with a sequence as a whole, beside editing and publishing it. */
export function SequenceMenu({ id, about, doc }: { id: string; about: SequenceAnswer; doc: Sequence }) {
  const [dialog, setDialog] = useState<'people' | 'versions' | 'archive' | 'sender' | null>(null);
  const [setStatus] = useSetStatusMutation();
  const [add] = useAddSequenceMutation();
  const navigate = useNavigate();
  const dispatch = useAct();
  const names = useNames(doc);
  const around = useAround(['senders']);
  const remove = useDelete('sequences');
  const close = () => setDialog(null);
  const pause = async () => {
    const answer = await setStatus({ id, status: 'paused' });
    if (answer.error) toast.error(sentence(answer.error));
    else toast('Paused. People still come in, and nothing goes out until you resume.');
  };
  const duplicate = async () => {
    const answer = await add({ name: `${doc.name} (copy)`.slice(0, 120), copyOf: id });
    if (answer.data) await navigate(`/sequences/${answer.data.id}`);
    else toast.error(sentence(answer.error));
  };
  const download = async () => {
    await dispatch(settled());
    const link = document.createElement('a');
    link.href = `/api/sequences/${id}/export`;
    link.download = `${doc.name}.json`;
    link.click();
  };
  const copyText = async () => {
    await navigator.clipboard.writeText(planText(doc, names));
    toast.success('The plan is in the clipboard, as text.');
  };
  const erase = async () => {
    await dispatch(settled());
    if (await remove(id, doc.name)) await navigate('/sequences');
  };
  const isRunning = about.status === 'live' || about.status === 'paused';
  const entries: MenuEntry[] = [
    ...(about.status === 'live'
      ? [{ label: 'Pause', icon: <Pause size={15} aria-hidden="true" />, act: () => void pause() }]
      : []),
    ...(isRunning
      ? [
          {
            label: 'Add people by hand',
            icon: <UserPlus size={15} aria-hidden="true" />,
            act: () => setDialog('people'),
          },
        ]
      : []),
    { label: 'Versions', icon: <History size={15} aria-hidden="true" />, act: () => setDialog('versions') },
    {
      label: 'Exchange the sender',
      icon: <UserPen size={15} aria-hidden="true" />,
      act: () => void dispatch(settled()).then(() => setDialog('sender')),
    },
    { label: 'Duplicate', icon: <Copy size={15} aria-hidden="true" />, act: () => void duplicate() },
    { label: 'Export as a file', icon: <FileDown size={15} aria-hidden="true" />, act: () => void download() },
    {
      label: 'Copy the plan as text',
      icon: <ClipboardCopy size={15} aria-hidden="true" />,
      act: () => void copyText(),
    },
    ...(about.liveVersion === null
      ? [
          {
            label: 'Delete',
            icon: <Trash2 size={15} aria-hidden="true" />,
            danger: true,
            act: () => void erase(),
          },
        ]
      : []),
    ...(about.status === 'archived' || about.liveVersion === null
      ? []
      : [
          {
            label: 'Archive',
            icon: <Archive size={15} aria-hidden="true" />,
            danger: true,
            act: () => setDialog('archive'),
          },
        ]),
  ];
  return (
    <>
      <ActionMenu name="More about this sequence" entries={entries}>
        <MoreHorizontal size={16} aria-hidden="true" />
      </ActionMenu>
      {dialog === 'people' && <AddPeopleDialog id={id} onClose={close} />}
      {dialog === 'archive' && <ArchiveDialog id={id} onClose={close} />}
      {dialog === 'sender' && around && (
        <ExchangeSender senders={around.senders} from={senderIn(doc, around.senders)} sequence={id} onClose={close} />
      )}
      {dialog === 'versions' && <VersionsDialog id={id} live={about.liveVersion} onClose={close} />}
    </>
  );
}
