/** Who gets two marketing emails or more on one day, over as many days as an integer has bits to spare. */
export class Collisions {
  /** Days on which a person gets one at least, and two at least, a bit for each. */
  readonly #once = new Map<string, number>();
  readonly #twice = new Map<string, number>();
  readonly #days: number;

  /** `days` is 30 at most. */
  constructor(days: number) {
    this.#days = days;
  }

  /** Notes an email to a person on a day, counted from the first. */
  mark(person: string, day: number): void {
    if (day < 0 || day >= this.#days) return;
    const bit = 1 << day;
    const known = this.#once.get(person) ?? 0;
    if (known & bit) this.#twice.set(person, (this.#twice.get(person) ?? 0) | bit);
    else this.#once.set(person, known | bit);
  }

  /** People by day. */
  counts(): number[] {
    const out = Array.from({ length: this.#days }, () => 0);
    for (const days of this.#twice.values())
      for (let day = 0; day < this.#days; day++) if (days & (1 << day)) out[day] = (out[day] ?? 0) + 1;
    return out;
  }
}
