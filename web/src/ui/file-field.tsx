import { Upload } from 'lucide-react';
import { useRef, useState, type ReactNode } from 'react';
import { Button } from './index.tsx';

/** Opens the list of files of the machine. Its button is whatever `children` draw. */
export function useFilePicker(label: string, accept: string, take: (files: File[]) => void, multiple = false) {
  const input = useRef<HTMLInputElement>(null);
  const field = (
    <input
      ref={input}
      type="file"
      accept={accept}
      multiple={multiple}
      aria-label={label}
      className="sr-only"
      tabIndex={-1}
      onChange={(e) => {
        const chosen = [...(e.target.files ?? [])];
        e.target.value = '';
        if (chosen.length > 0) take(chosen);
      }}
    />
  );
  return { field, open: () => input.current?.click() };
}

/** A place for files: dropped onto it, or chosen from the machine. */
export function FileField({
  label,
  hint,
  accept = '',
  multiple = false,
  busy,
  take,
  children,
}: {
  label: string;
  hint: string;
  accept?: string;
  multiple?: boolean;
  /** What is going on with the last one, while it is. */
  busy?: string | null;
  take: (files: File[]) => void;
  children?: ReactNode;
}) {
  const { field, open } = useFilePicker(label, accept, take, multiple);
  const [over, setOver] = useState(false);
  return (
    <div
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes('Files')) return;
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        setOver(false);
        const dropped = [...e.dataTransfer.files];
        if (dropped.length === 0) return;
        e.preventDefault();
        take(multiple ? dropped : dropped.slice(0, 1));
      }}
      className={`flex flex-wrap items-center gap-x-3 gap-y-1 rounded-control border border-dashed px-3 py-2 ${over ? 'border-spruce bg-spruce-tint' : 'border-line bg-paper-2'}`}
    >
      {field}
      <Button onClick={open} disabled={Boolean(busy)}>
        <Upload size={15} aria-hidden="true" />
        {label}
      </Button>
      <p role="status" className="text-[12px] text-ink-2">
        {busy ?? hint}
      </p>
      {children}
    </div>
  );
}
