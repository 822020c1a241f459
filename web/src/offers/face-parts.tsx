import {
  colorNames,
  faceSchema,
  hexOf,
  languages,
  timerFaces,
  timerFonts,
  type ColorName,
  type HouseStyle,
  type TimerFace,
} from '@ascenso/core';
import { Choice } from '../ui/choice.tsx';
import { FacePicture } from './face-picture.tsx';
import { OtherColour } from '../ui/colour-field.tsx';
import { NumberField } from '../ui/number-field.tsx';

const SAMPLE = 2 * 86_400 + 5 * 3600 + 13 * 60 + 8;
const partNames = Object.keys(faceSchema.shape) as (keyof TimerFace)[];
const ZEROS = { kind: 'zeros' } as const;
/** Part by part: a face that was kept comes back with its parts in another order. */
const same = (a: TimerFace, b: TimerFace) => partNames.every((part) => a[part] === b[part]);

const LANGUAGES = new Intl.DisplayNames(['en'], { type: 'language' });

/** A colour by the house's name or its own. */
function FaceColour({
  label,
  value,
  style,
  save,
  clear = false,
}: {
  label: string;
  value: string | null;
  style: HouseStyle;
  save: (v: string | null) => void;
  clear?: boolean;
}) {
  const named = value !== null && colorNames.includes(value as ColorName);
  return (
    <div className="flex items-center gap-2">
      <span className="w-16 text-[13px] text-ink-2">{label}</span>
      <span className="flex flex-wrap items-center gap-1">
        {clear && (
          <button
            type="button"
            aria-pressed={value === null}
            onClick={() => save(null)}
            className={`h-6 rounded-full border px-2 text-[12px] ${value === null ? 'border-spruce bg-spruce-tint font-semibold text-spruce-deep' : 'border-line text-ink-2'}`}
          >
            See-through
          </button>
        )}
        {(['text', 'soft', 'accent', 'onAccent', 'sheet', 'page'] as const).map((name) => (
          <button
            key={name}
            type="button"
            aria-pressed={value === name}
            aria-label={`${label}: ${name}`}
            title={name}
            onClick={() => save(name)}
            style={{ background: hexOf(name, style) }}
            className={`size-6 rounded-full border ${value === name ? 'border-spruce outline-2 outline-spruce' : 'border-line'}`}
          />
        ))}
        <OtherColour
          label={label}
          value={value === null || named ? '#888888' : value}
          own={value !== null && !named}
          save={save}
        />
      </span>
    </div>
  );
}

/** The faces there are, ours and those of the house. */
export function FaceGallery({
  face,
  style,
  save,
}: {
  face: TimerFace;
  style: HouseStyle;
  save: (f: TimerFace) => void;
}) {
  const all = [...Object.entries(timerFaces).map(([name, f]) => ({ name, face: f })), ...style.faces];
  return (
    <div role="group" aria-label="Faces" className="grid grid-cols-2 gap-2">
      {all.map((f) => {
        const own = { ...f.face, width: face.width, language: face.language };
        return (
          <button
            key={f.name}
            type="button"
            aria-pressed={same(own, face)}
            onClick={() => save(own)}
            className={`rounded-control border p-1.5 text-left text-[12px] ${same(own, face) ? 'border-spruce bg-spruce-tint font-semibold' : 'border-line hover:border-spruce-mid'}`}
          >
            <FacePicture face={{ ...f.face, width: 480 }} left={SAMPLE} after={ZEROS} alt="" width={112} />
            <span className="mt-1 block">{f.name}</span>
          </button>
        );
      })}
    </div>
  );
}

/** Everything of a face that can be made one's own. */
export function FaceParts({ face, style, save }: { face: TimerFace; style: HouseStyle; save: (f: TimerFace) => void }) {
  const set = (some: Partial<TimerFace>) => save({ ...face, ...some });
  const choice = <K extends keyof TimerFace>(
    label: string,
    key: K,
    options: readonly (readonly [string, string])[],
  ) => (
    <Choice
      label={label}
      value={String(face[key])}
      choose={(v) => set({ [key]: v })}
      of={options.map(([v, words]) => ({ value: v, label: words }))}
    />
  );
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        {choice(
          'Font',
          'font',
          timerFonts.map((f) => [f, f]),
        )}
        {choice('Cells', 'cells', [
          ['unit', 'one for each unit'],
          ['figure', 'one for each figure'],
          ['none', 'none'],
        ])}
        {choice('Corners', 'corners', [
          ['plain', 'plain'],
          ['rounded', 'rounded'],
          ['round', 'round'],
        ])}
        {choice('Line', 'line', [
          ['none', 'none'],
          ['around', 'around'],
          ['below', 'below'],
          ['across', 'across'],
        ])}
        {choice('Between', 'between', [
          ['nothing', 'nothing'],
          ['colon', 'a colon'],
          ['dot', 'a dot'],
        ])}
        {choice('Labels', 'labels', [
          ['below', 'below the cells'],
          ['inside', 'inside them'],
          ['none', 'none'],
        ])}
        <Choice
          label="Labels in"
          value={face.language}
          choose={(v) => set({ language: v })}
          of={[
            { value: '', label: 'the reader’s language' },
            ...languages.filter((l) => l !== 'en-GB').map((l) => ({ value: l, label: LANGUAGES.of(l) ?? l })),
          ]}
        />
        <NumberField
          label="Width"
          unit="px"
          least={240}
          most={600}
          step={20}
          value={face.width}
          save={(width) => set({ width })}
          late
        />
      </div>
      <FaceColour label="Figures" value={face.figure} style={style} save={(figure) => figure && set({ figure })} />
      <FaceColour label="Cells" value={face.cell} style={style} save={(cell) => cell && set({ cell })} />
      <FaceColour label="Labels" value={face.label} style={style} save={(label) => label && set({ label })} />
      <FaceColour label="Ground" value={face.ground} style={style} clear save={(ground) => set({ ground })} />
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={face.fine} onChange={(e) => set({ fine: e.target.checked })} />
        Twice as fine, for good screens
      </label>
    </div>
  );
}
