/** How long an answer is kept, and from when on it is made anew while the old one is given, ms. */
export const KEPT_MS = 600_000;
export const RENEWED_MS = 30_000;
const MOST = 200;

interface KeptAnswer<T> {
  answer: T;
  at: number;
}

/**
 * Answers that take long to count and may be a little old: kept in memory, given at once, and counted anew behind it. How old
 * one is has to be told with it.
 */
export class KeptAnswers<T> {
  readonly #known = new Map<string, KeptAnswer<T>>();
  /** Those that are being made: whoever asks meanwhile waits for the same. */
  readonly #making = new Map<string, Promise<T>>();

  /** The answer under a key and its age, ms; made by `make` where there is none of at most `most` ms. */
  async get(key: string, make: () => Promise<T>, most = KEPT_MS): Promise<{ answer: T; age: number }> {
    const kept = this.#known.get(key);
    const age = kept ? Date.now() - kept.at : Infinity;
    if (!kept || age > most) return { answer: await this.#make(key, make), age: 0 };
    // What fails behind an answer is tried again at the next look.
    if (age > RENEWED_MS) this.#make(key, make).catch(() => undefined);
    return { answer: kept.answer, age };
  }

  #make(key: string, make: () => Promise<T>): Promise<T> {
    const under = this.#making.get(key) ?? this.#keep(key, make).finally(() => this.#making.delete(key));
    this.#making.set(key, under);
    return under;
  }

  async #keep(key: string, make: () => Promise<T>): Promise<T> {
    const at = Date.now();
    const answer = await make();
    this.#known.delete(key);
    this.#known.set(key, { answer, at });
    if (this.#known.size > MOST) this.#known.delete(this.#known.keys().next().value as string);
    return answer;
  }
}
