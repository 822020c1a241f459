import { ComboboxButton, ComboboxInput, type ComboboxInputProps } from '@headlessui/react';
import { ChevronDown } from 'lucide-react';
import { useRef } from 'react';
import { inputClass } from './index.tsx';

/**
 * The field of a choice that is found by typing. It opens on a click, by typing and by the arrows, and not when the focus
 * merely comes by. What stands in it is selected, so that the first letter replaces it.
 */
export function ComboInput<T>({
  arrow = false,
  className = '',
  ...rest
}: ComboboxInputProps<'input', T> & { arrow?: boolean; className?: string }) {
  const button = useRef<HTMLButtonElement>(null);
  return (
    <>
      <ComboboxInput
        autoComplete="off"
        onFocus={(e) => e.target.select()}
        onClick={(e) => e.currentTarget.getAttribute('aria-expanded') !== 'true' && button.current?.click()}
        className={`${inputClass} ${arrow ? 'pr-7 text-ellipsis' : ''} ${className}`}
        {...rest}
      />
      <ComboboxButton
        ref={button}
        aria-hidden="true"
        className={arrow ? 'absolute inset-y-0 right-0 flex w-7 items-center justify-center text-ink-2' : 'hidden'}
      >
        <ChevronDown size={14} />
      </ComboboxButton>
    </>
  );
}
