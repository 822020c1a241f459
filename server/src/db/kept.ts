/** Things that never change once they are there, kept in memory: `max` of them, the oldest dropped first. */
export class Kept<T> {
  readonly #map = new Map<string, T>();
  readonly #max: number;
  constructor(max: number) {
    this.#max = max;
  }
  async get(key: string, load: () => Promise<T>): Promise<T> {
    const known = this.#map.get(key);
    if (known !== undefined) return known;
    const value = await load();
    this.#map.set(key, value);
    if (this.#map.size > this.#max) this.#map.delete(this.#map.keys().next().value as string);
    return value;
  }
}
