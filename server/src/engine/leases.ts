/**
 * Keeps what a process has in hand its own for as long as it works on it: renewed well before it runs out, so that no
 * delivery outlives its lease however long the other side takes. Killed, it renews nothing, and another process takes over
 * when the last lease is over.
 */
export class Leases<T extends { id: string }> {
  readonly #held = new Map<string, T>();
  readonly #renew: (held: T[], until: number) => Promise<unknown>;
  readonly #ms: number;
  #timer: NodeJS.Timeout | undefined;

  /** `ms` is the length of a lease on the system clock; `renew` writes the new end of some. */
  constructor(ms: number, renew: (held: T[], until: number) => Promise<unknown>) {
    this.#ms = ms;
    this.#renew = renew;
  }

  hold(items: readonly T[]): void {
    for (const item of items) this.#held.set(item.id, item);
    if (this.#ms > 0 && this.#held.size > 0) this.#timer ??= setInterval(() => this.#renewAll(), this.#ms / 4).unref();
  }

  release(items: readonly T[]): void {
    for (const item of items) this.#held.delete(item.id);
    if (this.#held.size > 0) return;
    clearInterval(this.#timer);
    this.#timer = undefined;
  }

  #renewAll(): void {
    // A database that cannot be reached lets nobody else take them either; the next turn tries again.
    this.#renew([...this.#held.values()], Date.now() + this.#ms).catch(() => undefined);
  }
}
