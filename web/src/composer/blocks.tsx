import { Heading, Image, Minus, MousePointerClick, PanelBottom, TextAlignStart } from 'lucide-react';
import type { ReactNode } from 'react';
import type { FileRow, Surroundings } from '@ascenso/contracts';
import { plainStyle, type Block, type BlockKindName } from '@ascenso/core';
import { useChangeMutation } from '../app/api.ts';
import { Field, Select } from '../ui/index.tsx';
import { LineEditor, RichEditor } from './editors.tsx';
import { TemplateText } from './template-text.tsx';

export const blockIcons: Record<BlockKindName, ReactNode> = {
  text: <TextAlignStart size={15} aria-hidden="true" />,
  heading: <Heading size={15} aria-hidden="true" />,
  image: <Image size={15} aria-hidden="true" />,
  button: <MousePointerClick size={15} aria-hidden="true" />,
  divider: <Minus size={15} aria-hidden="true" />,
  footer: <PanelBottom size={15} aria-hidden="true" />,
};

type Set = (field: string, value: unknown) => void;

/** A block on the canvas, in the house style, with its text to be written in place. */
export function BlockFace({ block, around, set }: { block: Block; around: Surroundings; set: Set }) {
  const style = { ...plainStyle, ...around.style };
  switch (block.kind) {
    case 'text':
      return <div style={{ fontFamily: style.font, fontSize: style.size, lineHeight: 1.55, color: style.text, padding: '8px 32px' }}><RichEditor label="Text of the block" doc={block.doc} save={(doc) => set('doc', doc)} /></div>;
    case 'heading':
      return <p style={{ fontFamily: style.headingFont, color: style.accent, fontWeight: 700, fontSize: block.level === 1 ? 28 : 22, lineHeight: 1.25, textAlign: block.level === 1 ? 'center' : 'left', padding: '16px 32px 4px' }}><TemplateText source={block.text} empty="Heading" /></p>;
    case 'image':
      return <div style={{ padding: '10px 32px' }}>{block.file ? <img src={`/f/${block.file}`} alt={block.alt} width={block.width} className="mx-auto max-w-full rounded-[6px]" /> : <p className="rounded-control border border-dashed border-[#c9c2b2] py-10 text-center font-sans text-ink-2">Choose a picture on the right</p>}</div>;
    case 'button':
      return <p className="text-center" style={{ padding: '14px 32px' }}><span style={{ background: style.accent, color: style.onAccent, fontFamily: style.font, fontSize: style.size, borderRadius: 6, padding: '14px 26px', display: 'inline-block', fontWeight: 600 }}>{block.label ? <TemplateText source={block.label} empty="" /> : 'Button'}</span></p>;
    case 'divider':
      return <hr style={{ borderColor: style.line, margin: '16px 32px' }} />;
    case 'footer':
      return <p style={{ fontFamily: style.font, fontSize: 13, color: style.soft, textAlign: 'center', padding: '20px 32px' }}>{block.reason && <><TemplateText source={block.reason} empty="" /><br /></>}{style.postalAddress || 'No postal address yet: fill it in under Library'}<br /><u>Unsubscribe</u></p>;
  } // prettier-ignore
}

function FileChoice({
  label,
  files,
  value,
  images,
  choose,
}: {
  label: string;
  files: FileRow[];
  value: string;
  images: boolean;
  choose: (id: string) => void;
}) {
  const [change, { isLoading, error }] = useChangeMutation();
  const fit = files.filter((f) => f.mime.startsWith('image/') === images);
  const upload = async (file: File | undefined) => {
    if (!file) return;
    const body = new FormData();
    body.append('file', file);
    const answer = await change({ url: '/files', method: 'POST', body });
    if (answer.data?.id) choose(answer.data.id);
  };
  return (
    <div className="flex flex-col gap-2">
      <Select label={label} value={value} onChange={(e) => choose(e.target.value)}>
        <option value="">None chosen</option>
        {fit.map((f) => <option key={f.id} value={f.id}>{f.name}</option>)}
      </Select>
      <Field label={isLoading ? 'Uploading …' : `Or upload ${images ? 'a picture' : 'a file'} (10 MB at most)`} error={error && 'message' in error ? error.message : undefined}>
        {(id) => <input id={id} type="file" accept={images ? 'image/png,image/jpeg,image/gif,image/webp' : '.pdf,.zip'} onChange={(e) => void upload(e.target.files?.[0])} className="text-[13px]" />}
      </Field>
    </div>
  ); // prettier-ignore
}

/** Settings of the selected block. */
export function BlockPanel({ block, around, set }: { block: Block; around: Surroundings; set: Set }) {
  switch (block.kind) {
    case 'text':
      return <p className="text-ink-2">Write on the page. Type {'{{'} to put in a merge field.</p>;
    case 'heading':
      return (
        <div className="flex flex-col gap-3">
          <LineEditor key={block.id} label="Heading" value={block.text} save={(v) => set('text', v)} />
          <Select label="Size" value={block.level} onChange={(e) => set('level', Number(e.target.value))}><option value={1}>Title, in the middle</option><option value={2}>Heading</option></Select>
        </div>
      );
    case 'image':
      return (
        <div className="flex flex-col gap-3">
          <FileChoice label="Picture" files={around.files} value={block.file} images choose={(id) => set('file', id)} />
          <LineEditor key={`${block.id}-alt`} label="Alt text" value={block.alt} placeholder="What the picture shows" save={(v) => set('alt', v)} />
          <LineEditor key={`${block.id}-link`} label="Link (if it leads somewhere)" value={block.link} placeholder="https://" save={(v) => set('link', v)} />
          <Field label={`Width: ${block.width} px`}>{(id) => <input id={id} type="range" min={40} max={600} step={4} value={block.width} onChange={(e) => set('width', Number(e.target.value))} />}</Field>
        </div>
      );
    case 'button': {
      const isFile = block.address.startsWith('file:');
      return (
        <div className="flex flex-col gap-3">
          <LineEditor key={block.id} label="Words on the button" value={block.label} placeholder="Get the guide" save={(v) => set('label', v)} />
          <Select label="It opens" value={isFile ? 'file' : 'address'} onChange={(e) => set('address', e.target.value === 'file' ? `file:${around.files.find((f) => !f.mime.startsWith('image/'))?.id ?? ''}` : '')}><option value="address">a page</option><option value="file">a file of ours</option></Select>
          {isFile ? <FileChoice label="File" files={around.files} value={block.address.slice(5)} images={false} choose={(id) => set('address', `file:${id}`)} /> : <LineEditor key={`${block.id}-address`} label="Address" value={block.address} placeholder="https://" save={(v) => set('address', v)} />}
        </div>
      );
    }
    case 'divider':
      return <p className="text-ink-2">A thin line, in the house style.</p>;
    case 'footer':
      return (
        <div className="flex flex-col gap-3">
          <LineEditor key={block.id} label="Why they get this" value={block.reason} placeholder="You asked for our workshop letters." save={(v) => set('reason', v)} />
          <p className="text-ink-2">Postal address and unsubscribe link are always there. The address is set once, under Library.</p>
        </div>
      );
  } // prettier-ignore
}
