import { useState, type ReactNode } from 'react';
import { flushSync } from 'react-dom';
import { ActionMenu, type MenuEntry } from './index.tsx';

/** Where nothing hovers, a tap is the first that one hears of it: there the menu is ready from the start. */
const TOUCHED = window.matchMedia('(hover: none)').matches;

/**
 * A menu of which a plan has hundreds: a plain button, until the pointer comes over it or it gets the focus. Three hundred ready
 * ones took 300 ms of each drawing.
 */
export function MenuOnDemand({
  name,
  entries,
  children,
  className,
}: {
  name: string;
  entries: () => MenuEntry[];
  children: ReactNode;
  className: string;
}) {
  const [ready, setReady] = useState<'no' | 'by pointer' | 'by focus'>(TOUCHED ? 'by pointer' : 'no');
  if (ready !== 'no')
    return (
      <ActionMenu name={name} entries={entries()} className={className} autoFocus={ready === 'by focus'}>
        {children}
      </ActionMenu>
    );
  // At once: the button that the pointer comes down on has to be the one of the menu.
  const come = (how: 'by pointer' | 'by focus') => flushSync(() => setReady(how));
  return (
    <button
      type="button"
      aria-label={name}
      title={name}
      aria-haspopup="menu"
      aria-expanded={false}
      className={className}
      onPointerEnter={() => come('by pointer')}
      onFocus={() => come('by focus')}
    >
      {children}
    </button>
  );
}
