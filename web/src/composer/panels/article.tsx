import { toast } from 'sonner';
import type { Command } from '@ascenso/core';
import { sentence } from '../../app/api.ts';
import { useAct } from '../../app/store.ts';
import { flushTexts } from '../../app/typing.ts';
import { edit } from '../../drafts/draft.ts';
import { Button } from '../../ui/index.tsx';
import { useComposer } from '../context.ts';
import { useDescribePageMutation } from '../endpoints.ts';
import { Choice } from '../../ui/choice.tsx';
import { Line, type Of } from './parts.tsx';
import { useSet } from '../use-set.ts';
import { Picture } from './picture.tsx';

/** Fills the card from what its page says of itself, as one edit. */
function FromPage({ block }: { block: Of<'article'> }) {
  const { step } = useComposer();
  const dispatch = useAct();
  const [describe, { isLoading, error }] = useDescribePageMutation();
  const fill = async () => {
    flushTexts();
    const { data } = await describe({ address: block.address, keep: true });
    if (!data) return;
    const put = (field: string, value: string): Command[] =>
      value ? [{ type: 'block.set', step: step.id, block: block.id, field, value }] : [];
    const commands = [
      ...put('title', data.title),
      ...put('summary', data.summary),
      ...put('file', data.file ?? ''),
      ...(data.file ? put('alt', data.alt || data.title) : []),
    ];
    if (dispatch(edit(commands))) toast(`Filled in from its page: ${data.file ? 'words and picture' : 'its words'}.`);
  };
  return (
    <div>
      <Button
        disabled={isLoading || block.address.trim() === '' || block.address.includes('{{')}
        onClick={() => void fill()}
      >
        {isLoading ? 'Reading its page …' : 'Fill in from its page'}
      </Button>
      {error && (
        <p role="alert" className="mt-1 text-[13px] text-brick">
          {sentence(error)}
        </p>
      )}
    </div>
  );
}

/** A picture with a title, some words and a link. */
export function ArticlePanel({ block }: { block: Of<'article'> }) {
  const set = useSet(block);
  return (
    <>
      <Picture block={block} label="Picture" shown={block.side === 'above' ? 536 : 180} />
      {block.file && <Line block={block} field="alt" label="Alt text" part="alt text" value={block.alt} />}
      <Choice
        label="The picture stands"
        value={block.side}
        choose={(v) => set('side', v)}
        of={[
          { value: 'left', label: 'left of the words' },
          { value: 'right', label: 'right of the words' },
          { value: 'above', label: 'above them' },
        ]}
      />
      <Line block={block} field="address" label="Address" part="address" value={block.address} placeholder="https://" />
      <FromPage block={block} />
      <Line block={block} field="title" label="Title" part="title" value={block.title} />
      <Line block={block} field="summary" label="A few words" part="summary" value={block.summary} />
      <Line block={block} field="label" label="Words of the link" part="label" value={block.label} />
    </>
  );
}
