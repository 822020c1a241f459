import { useEffect, useRef, type RefObject } from 'react';

/**
 * What was selected last, to be set when something is: the address, which says what is selected, follows a moment later, and a
 * click with Shift may come before that.
 */
export function useLastSelected(selected: string | null): RefObject<string | null> {
  const last = useRef(selected);
  useEffect(() => void (last.current = selected), [selected]);
  return last;
}
