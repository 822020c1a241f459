/** Notices that one receiver is handed at once. */
const AT_ONCE = 4;

/**
 * What is being handed over, by receiver: each has a few lanes of its own, so that one that is slow stalls nobody else.
 */
export class Receivers<T> {
  readonly #underWay = new Map<string, Promise<void>>();
  #lost: Error | undefined;

  /** Receivers that have their hands full: nothing more is taken for them until they are done. */
  busy(): string[] {
    return [...this.#underWay.keys()];
  }

  /** Begins to hand over to receivers that are not busy; `work` does one. */
  begin(items: readonly T[], receiver: (item: T) => string, work: (item: T) => Promise<void>): void {
    const lines = new Map<string, T[]>();
    for (const item of items) lines.set(receiver(item), [...(lines.get(receiver(item)) ?? []), item]);
    for (const [name, waiting] of lines) {
      const lane = async () => {
        for (let next = waiting.shift(); next; next = waiting.shift()) await work(next);
      };
      const done = Promise.all(Array.from({ length: AT_ONCE }, lane))
        // A database that went away meanwhile: told by the next round, which finds it away too.
        .catch((error: Error) => {
          this.#lost = error;
        })
        .then(() => {
          this.#underWay.delete(name);
        });
      this.#underWay.set(name, done);
    }
  }

  /** Resolves when everything is handed over, at the latest after `ms`. Throws what went wrong since it was asked last. */
  async settled(ms: number): Promise<void> {
    let timer: NodeJS.Timeout | undefined;
    const patience = new Promise<void>((resolve) => (timer = setTimeout(resolve, ms)));
    await Promise.race([Promise.all(this.#underWay.values()), patience]);
    clearTimeout(timer);
    const lost = this.#lost;
    this.#lost = undefined;
    if (lost) throw lost;
  }
}
