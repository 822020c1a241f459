import { Dialog as HDialog, DialogPanel, DialogTitle, Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { X } from 'lucide-react';
import { useId, type ButtonHTMLAttributes, type CSSProperties, type InputHTMLAttributes, type ReactNode } from 'react';

const tones = {
  main: 'bg-spruce text-white border-spruce hover:bg-spruce-deep',
  plain: 'bg-sheet text-ink border-line hover:bg-paper-2',
  quiet: 'bg-transparent text-ink-2 border-transparent hover:bg-paper hover:text-ink',
  danger: 'bg-sheet text-brick border-line hover:bg-brick-tint',
  fix: 'bg-sheet text-ochre-text border-line hover:bg-ochre-tint',
};
export type Tone = keyof typeof tones;

export const buttonClass = (tone: Tone = 'plain') =>
  `inline-flex min-h-8 items-center justify-center gap-1.5 rounded-control border px-3 py-1.5 font-semibold whitespace-nowrap disabled:opacity-50 ${tones[tone]}`;

export function Button({
  tone = 'plain',
  className = '',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { tone?: Tone }) {
  return <button type="button" className={`${buttonClass(tone)} ${className}`} {...rest} />;
}

/** A button that shows only an icon: its name is told to those who cannot see it, and on hover. */
export function IconButton({
  name,
  children,
  className = '',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { name: string; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-label={name}
      title={name}
      className={`inline-flex size-7 items-center justify-center rounded-control text-ink-2 hover:bg-paper hover:text-ink disabled:opacity-40 ${className}`}
      {...rest}
    >
      {children}
    </button>
  );
}

export const inputClass =
  'w-full min-h-8 rounded-control border border-line bg-sheet px-2.5 py-1.5 leading-normal text-ink';

export function Field({
  label,
  error,
  hint,
  children,
}: {
  label: string;
  error?: string | undefined;
  hint?: string;
  children: (id: string) => ReactNode;
}) {
  const id = useId();
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="text-[12px] text-ink-2">
        {label}
      </label>
      {children(id)}
      {hint && <p className="text-[12px] text-ink-2">{hint}</p>}
      {error && (
        <p role="alert" className="text-[12px] font-semibold text-brick">
          {error}
        </p>
      )}
    </div>
  );
}

export function TextField({
  label,
  error,
  hint,
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & { label: string; error?: string | undefined; hint?: string }) {
  return (
    <Field label={label} error={error} {...(hint ? { hint } : {})}>
      {(id) => <input id={id} className={inputClass} aria-invalid={error ? true : undefined} {...rest} />}
    </Field>
  );
}

export function Dialog({
  open,
  onClose,
  title,
  children,
  wide,
  widest,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  wide?: boolean;
  widest?: boolean;
}) {
  return (
    <HDialog
      open={open}
      onClose={onClose}
      className="fixed inset-0 z-40 flex items-start justify-center overflow-y-auto bg-ink/30 p-4 pt-[10vh]"
    >
      <DialogPanel
        className={`w-full rounded-sheet border border-line bg-sheet p-5 ${widest ? 'max-w-6xl' : wide ? 'max-w-3xl' : 'max-w-md'}`}
      >
        <div className="mb-3 flex items-start justify-between gap-3">
          <DialogTitle className="font-head text-[18px] font-bold">{title}</DialogTitle>
          <IconButton name="Close" onClick={onClose}>
            <X size={16} />
          </IconButton>
        </div>
        {children}
      </DialogPanel>
    </HDialog>
  );
}

/** A choice of a few things, each with a sentence about what it does. */
export function ChoiceCards<V extends string>({
  name,
  legend,
  choices,
  chosen,
  choose,
}: {
  name: string;
  legend: string;
  choices: readonly { value: V; words: string; note: string }[];
  /** Null while nothing has been chosen. */
  chosen: V | null;
  choose: (value: V) => void;
}) {
  return (
    <fieldset className="mt-4 flex flex-col gap-2">
      <legend className="mb-1 font-semibold">{legend}</legend>
      {choices.map((c) => (
        <label
          key={c.value}
          className={`flex cursor-pointer items-start gap-2.5 rounded-control border px-3 py-2 ${chosen === c.value ? 'border-spruce bg-spruce-tint' : 'border-line'}`}
        >
          <input
            type="radio"
            name={name}
            checked={chosen === c.value}
            onChange={() => choose(c.value)}
            className="mt-1"
          />
          <span>
            <b className="font-semibold">{c.words}</b>
            <span className="block text-ink-2">{c.note}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}

export interface MenuEntry {
  label: string;
  icon?: ReactNode;
  keys?: string;
  danger?: boolean;
  disabled?: boolean;
  act: () => void;
}

export function ActionMenu({
  name,
  entries,
  children,
  className = '',
  autoFocus = false,
}: {
  name: string;
  entries: MenuEntry[];
  children: ReactNode;
  className?: string;
  autoFocus?: boolean;
}) {
  return (
    <Menu>
      <MenuButton
        autoFocus={autoFocus}
        aria-label={name}
        title={name}
        className={
          className ||
          'inline-flex size-7 items-center justify-center rounded-control text-ink-2 hover:bg-paper hover:text-ink'
        }
      >
        {children}
      </MenuButton>
      <MenuItems
        anchor="bottom start"
        className="z-50 min-w-44 rounded-sheet border border-line bg-sheet p-1 shadow-sm [--anchor-gap:4px]"
      >
        {entries.map((e) => (
          <MenuItem key={e.label} disabled={e.disabled ?? false}>
            <button
              type="button"
              onClick={e.act}
              className={`flex w-full items-center gap-2 rounded-control px-2.5 py-1.5 text-left data-disabled:opacity-40 data-focus:bg-paper ${e.danger ? 'text-brick' : ''}`}
            >
              {e.icon}
              <span className="flex-1">{e.label}</span>
              {e.keys && <kbd className="text-[11px] text-ink-2">{e.keys}</kbd>}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}

const chips = {
  live: 'bg-spruce-tint text-spruce-deep',
  draft: 'bg-[#ece7db] text-ink-2',
  fix: 'bg-ochre-tint text-ochre-text',
  error: 'bg-brick-tint text-brick',
  data: 'bg-slate-tint text-slate',
  condition: 'bg-plum-tint text-plum',
  trigger: 'bg-dawn-tint text-dawn-text',
};
export function Chip({ tone, children }: { tone: keyof typeof chips; children: ReactNode }) {
  return (
    <span
      className={`inline-flex items-center gap-1 rounded-full px-2.5 py-0.5 text-[12px] font-semibold whitespace-nowrap ${chips[tone]}`}
    >
      {children}
    </span>
  );
}

export function Empty({ text, children }: { text: string; children?: ReactNode }) {
  return (
    <div className="flex flex-col items-center gap-3 px-6 py-14 text-center text-ink-2">
      <p className="max-w-md text-[15px]">{text}</p>
      {children}
    </div>
  );
}

export function Sheet({ children, className = '' }: { children: ReactNode; className?: string }) {
  return <section className={`rounded-sheet border border-line bg-sheet ${className}`}>{children}</section>;
}

/** HTML of an email, shut in: no script runs, and nothing of the application can be reached from it. */
export function EmailFrame({
  html,
  title,
  className = '',
  links = false,
  style,
}: {
  html: string;
  title: string;
  className?: string;
  links?: boolean;
  style?: CSSProperties;
}) {
  return (
    <iframe
      title={title}
      style={style}
      srcDoc={html.replace('<head>', '<head><base target="_blank">')}
      sandbox={links ? 'allow-popups allow-popups-to-escape-sandbox' : ''}
      className={`border-0 bg-white ${className}`}
    />
  );
}

export const number = (n: number) => n.toLocaleString('en-GB');
