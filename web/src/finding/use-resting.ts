import { useEffect, useState } from 'react';

/** A text once nobody has typed for a moment (ms). */
export function useResting(text: string, after = 180): string {
  const [resting, setResting] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setResting(text), after);
    return () => clearTimeout(timer);
  }, [text, after]);
  return resting;
}
