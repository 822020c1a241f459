/** Does one thing at a time; of what comes meanwhile only the newest is done after it. What fails stops nothing. */
export function oneByOne(): (work: () => Promise<void>) => void {
  let busy = false;
  let next: (() => Promise<void>) | null = null;
  const done = () => {
    busy = false;
    const after = next;
    next = null;
    if (after) run(after);
  };
  const run = (work: () => Promise<void>): void => {
    if (busy) {
      next = work;
      return;
    }
    busy = true;
    work().then(done, done);
  };
  return run;
}
