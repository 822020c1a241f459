import { Plus, X } from 'lucide-react';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { networks, paragraphs, socialNames, type Email, type HouseStyle } from '@ascenso/core';
import { contrast, AA } from '@ascenso/core';
import type { FileRow } from '@ascenso/contracts';
import { useSetStyleMutation } from './endpoints.ts';
import { sentence } from '../app/api.ts';
import { FileChoice } from '../composer/file-choice.tsx';
import { nobodyOf } from '../composer/thumbnail.tsx';
import { useRendered } from '../composer/preview.ts';
import { FacePicture } from '../offers/face-picture.tsx';
import { Button, IconButton, inputClass, Sheet, TextField } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { LiveEmailFrame } from '../ui/live-email.tsx';
import { languageChoices } from '../ui/languages.ts';
import { useLibrary } from './library.tsx';
import { ColourField } from '../ui/colour-field.tsx';
import { NumberField } from '../ui/number-field.tsx';

/** Fonts that mail programs have by themselves (common practice, no published source). */
const FONTS = [
  ["'Helvetica Neue', Helvetica, Arial, sans-serif", 'Helvetica'],
  ['Georgia, serif', 'Georgia'],
  ["'Trebuchet MS', 'Lucida Grande', sans-serif", 'Trebuchet'],
  ["Verdana, 'DejaVu Sans', sans-serif", 'Verdana'],
  ["'Times New Roman', Times, serif", 'Times'],
] as const;

const COLOURS = [
  ['page', 'Page'],
  ['sheet', 'Sheet'],
  ['text', 'Text'],
  ['soft', 'Soft text'],
  ['accent', 'Headings, buttons'],
  ['onAccent', 'Words on buttons'],
  ['link', 'Links'],
  ['line', 'Lines'],
] as const;

/** Words and the ground they stand on: those that have to be told apart. */
const PAIRS = [
  ['text', 'sheet'],
  ['soft', 'sheet'],
  ['accent', 'sheet'],
  ['onAccent', 'accent'],
  ['link', 'sheet'],
] as const;

const sample = (brand: string): Email => ({
  sender: '',
  subject: 'A look at the house style',
  preview: '',
  blocks: [
    { id: 'l', kind: 'logo' },
    { id: 'a', kind: 'heading', text: brand || 'Your brand', level: 1 },
    {
      id: 'b',
      kind: 'text',
      doc: {
        type: 'doc',
        content: [
          {
            type: 'paragraph',
            content: [
              { type: 'text', text: 'This is how a text of yours reads, with ' },
              { type: 'text', text: 'a link', marks: [{ type: 'link', attrs: { href: 'https://foldwell.example' } }] },
              { type: 'text', text: ' in it.' },
            ],
          },
        ],
      },
    },
    { id: 'c', kind: 'heading', text: 'A heading', level: 2 },
    { id: 'd', kind: 'list', marker: 'tick', items: ['One point', 'And another'] },
    { id: 'e', kind: 'button', label: 'The one thing to do', address: 'https://foldwell.example' },
    { id: 'f', kind: 'quote', doc: paragraphs('What somebody says.'), by: 'Somebody' },
    { id: 'g', kind: 'social' },
    { id: 'h', kind: 'footer', reason: '' },
  ],
});

/** Sets a part of the style. True, as whoever puts a file into it wants to know. */
type Set = <K extends keyof HouseStyle>(key: K, value: HouseStyle[K] | ((now: HouseStyle[K]) => HouseStyle[K])) => true;

function Sizes({ style, set }: { style: HouseStyle; set: Set }) {
  const px = (
    key: 'size' | 'titleSize' | 'headingSize' | 'width' | 'radius',
    label: string,
    min: number,
    max: number,
  ) => <NumberField label={label} unit="px" least={min} most={max} value={style[key]} save={(n) => set(key, n)} />;
  const font = (key: 'font' | 'headingFont', label: string) => (
    <Choice
      label={label}
      value={style[key]}
      choose={(v) => set(key, v)}
      of={[
        ...FONTS.map(([v, name]) => ({ value: v, label: name })),
        ...(!FONTS.some(([v]) => v === style[key]) ? [{ value: style[key], label: style[key] }] : []),
      ]}
    />
  );
  return (
    <div className="grid grid-cols-4 gap-3">
      {font('font', 'Font of texts')}
      {font('headingFont', 'Font of headings')}
      {px('size', 'Text', 13, 24)}
      {px('titleSize', 'Titles', 16, 60)}
      {px('headingSize', 'Headings', 14, 48)}
      {px('width', 'Width', 480, 700)}
      {px('radius', 'Corners of buttons', 0, 40)}
    </div>
  );
}

function Colours({ style, set }: { style: HouseStyle; set: Set }) {
  const faint = PAIRS.filter(([words, ground]) => contrast(style[words], style[ground]) < AA);
  const name = (key: string) => COLOURS.find(([k]) => k === key)?.[1].toLowerCase();
  return (
    <>
      <div className="grid grid-cols-4 gap-3">
        {COLOURS.map(([key, label]) => (
          <ColourField key={key} label={label} value={style[key]} save={(hex) => set(key, hex)} />
        ))}
      </div>
      {faint.map(([words, ground]) => (
        <p key={words} role="alert" className="text-[13px] text-ochre-text">
          {name(words)} on {name(ground)} is hard to read:{' '}
          {(Math.floor(contrast(style[words], style[ground]) * 10) / 10).toFixed(1)} to 1, and {AA} to 1 is needed.
        </p>
      ))}
    </>
  );
}

function Logo({ style, files, set }: { style: HouseStyle; files: readonly FileRow[]; set: Set }) {
  const put = (more: Partial<HouseStyle['logo']>) => set('logo', (logo) => ({ ...logo, ...more }));
  return (
    <div className="grid grid-cols-[2fr_1fr_2fr] items-start gap-3">
      <FileChoice
        files={files}
        label="Picture of the logo"
        value={style.logo.file}
        images
        here
        choose={(file) => put({ file })}
        shown={style.logo.width}
      />
      <NumberField
        label="Width of the logo"
        unit="px"
        least={40}
        most={600}
        step={4}
        value={style.logo.width}
        save={(width) => put({ width })}
      />
      <TextField
        label="It leads to"
        value={style.logo.address}
        placeholder="nowhere"
        onChange={(e) => put({ address: e.target.value })}
      />
    </div>
  );
}

function Social({ style, set }: { style: HouseStyle; set: Set }) {
  const put = (i: number, more: Partial<HouseStyle['social'][number]>) =>
    set(
      'social',
      style.social.map((s, at) => (at === i ? { ...s, ...more } : s)),
    );
  return (
    <div className="flex flex-col gap-2">
      {style.social.map((s, i) => (
        <div key={i} className="flex items-center gap-2">
          <Choice
            label={`Network ${i + 1}`}
            hideLabel
            value={s.network}
            choose={(v) => put(i, { network: v })}
            className="w-36"
            of={networks.map((n) => ({ value: n, label: socialNames[n] }))}
          />
          <input
            aria-label={`Address ${i + 1}`}
            value={s.address}
            placeholder="https://"
            onChange={(e) => put(i, { address: e.target.value })}
            className={inputClass}
          />
          <IconButton
            name={`Take out link ${i + 1}`}
            onClick={() =>
              set(
                'social',
                style.social.filter((_, at) => at !== i),
              )
            }
          >
            <X size={14} />
          </IconButton>
        </div>
      ))}
      {style.social.length < 8 && (
        <Button
          tone="quiet"
          className="self-start"
          onClick={() => set('social', [...style.social, { network: 'website', address: 'https://' }])}
        >
          <Plus size={14} aria-hidden="true" />
          Social link
        </Button>
      )}
    </div>
  );
}

/** Colours, fonts, sizes and words that every email takes on, with a look at what they do. */
export function StyleRoom() {
  const around = useLibrary();
  const [style, setStyle] = useState(around.style);
  const [keep, { isLoading }] = useSetStyleMutation();
  useEffect(() => setStyle(around.style), [around.style]);
  const set: Set = (key, value) => {
    setStyle((s) => ({ ...s, [key]: typeof value === 'function' ? value(s[key]) : value }));
    return true;
  };
  const rendered = useRendered(sample(style.brand), { ...around, style }, nobodyOf(around));
  const drafts = around.sequences.filter((s) => s.emails > 0);
  const emails = drafts.reduce((sum, s) => sum + s.emails, 0);
  const changed = JSON.stringify(style) !== JSON.stringify(around.style);
  const save = async () => {
    const answer = await keep(style);
    if (answer.error) return void toast.error(sentence(answer.error));
    toast.success('Saved. Drafts look like this now; what is live does when it is published again.');
  };
  const campaign = (key: keyof HouseStyle['campaign'], label: string, hint: string) => (
    <TextField
      label={label}
      value={style.campaign[key]}
      placeholder={hint}
      onChange={(e) => set('campaign', { ...style.campaign, [key]: e.target.value })}
    />
  );
  return (
    <div className="grid grid-cols-[1fr_26rem] items-start gap-4">
      <Sheet className="flex flex-col gap-4 p-5">
        <div className="grid grid-cols-[1fr_1fr_2fr] gap-3">
          <TextField label="Brand" value={style.brand} onChange={(e) => set('brand', e.target.value)} />
          <Choice
            label="Emails are written in"
            value={style.language}
            choose={(v) => set('language', v)}
            of={languageChoices.map((l) => ({ value: l.tag, label: l.name }))}
          />
          <TextField
            label="Postal address (in every footer)"
            value={style.postalAddress}
            onChange={(e) => set('postalAddress', e.target.value)}
          />
        </div>
        <h2 className="text-[15px] font-bold">Logo</h2>
        <Logo style={style} files={around.files} set={set} />
        <h2 className="text-[15px] font-bold">Fonts and sizes</h2>
        <Sizes style={style} set={set} />
        <h2 className="text-[15px] font-bold">Colours</h2>
        <Colours style={style} set={set} />
        <h2 className="text-[15px] font-bold">Social links</h2>
        <Social style={style} set={set} />
        <h2 className="text-[15px] font-bold">Timer faces of the house</h2>
        {style.faces.length === 0 ? (
          <p className="text-ink-2">None yet. Make one in an email: choose a timer, then “Make the face your own”.</p>
        ) : (
          <ul className="flex flex-wrap gap-3">
            {style.faces.map((f) => (
              <li key={f.name} className="rounded-control border border-line p-2">
                <FacePicture
                  face={f.face}
                  left={193_988}
                  after={{ kind: 'zeros' }}
                  alt={`The face ${f.name}`}
                  width={200}
                />
                <p className="mt-1 flex items-center justify-between">
                  {f.name}
                  <IconButton
                    name={`Take out the face ${f.name}`}
                    onClick={() =>
                      set(
                        'faces',
                        style.faces.filter((k) => k.name !== f.name),
                      )
                    }
                  >
                    <X size={14} />
                  </IconButton>
                </p>
              </li>
            ))}
          </ul>
        )}
        <h2 className="text-[15px] font-bold">Campaign parameters of links</h2>
        <div className="grid grid-cols-4 gap-3">
          {campaign('source', 'utm_source', 'none')}
          {campaign('medium', 'utm_medium', 'none')}
          {campaign('campaign', 'utm_campaign', '{{ sequence.name }}')}
          {campaign('content', 'utm_content', '{{ sequence.email }}')}
        </div>
        <div className="sticky bottom-0 flex items-center justify-end gap-3 border-t border-line bg-sheet pt-3">
          <p className="flex-1 text-ink-2">
            {emails === 0
              ? 'No draft yet that would change.'
              : `Restyles ${emails} emails in ${drafts.length} drafts, but for what a block does in its own way. What is published stays as it is.`}
          </p>
          {changed && <Button onClick={() => setStyle(around.style)}>Take back</Button>}
          <Button tone="main" disabled={!changed || isLoading} onClick={() => void save()}>
            Save the house style
          </Button>
        </div>
      </Sheet>
      <Sheet className="overflow-hidden">
        <LiveEmailFrame title="A look at the house style" html={rendered?.html ?? null} className="h-[640px] w-full" />
      </Sheet>
    </div>
  );
}
