/**
 * The hybrid system of ISO 7064 (modulus M + 1, M) for an alphabet of M characters: one check character out of the same
 * alphabet, which finds every single wrong character and nearly every swap of neighbours. M is 10 for MOD 11,10, 26 for
 * MOD 27,26, 36 for MOD 37,36; the rule is the same for any even M.
 */
export class CheckCharacter {
  readonly #alphabet: string;

  /** Throws where the alphabet is odd in number or holds a character twice: then the system finds less than it promises. */
  constructor(alphabet: string) {
    if (alphabet.length % 2 !== 0 || new Set(alphabet).size !== alphabet.length)
      throw new Error('A check character needs an alphabet of an even number of different characters.');
    this.#alphabet = alphabet;
  }

  /** The running sum over a text: each character is added modulo M (0 counts as M), then doubled modulo M + 1. */
  #sum(text: string): number {
    const m = this.#alphabet.length;
    let product = m;
    for (const c of text) {
      const value = this.#alphabet.indexOf(c);
      if (value < 0) return -1;
      const sum = (value + product) % m || m;
      product = (sum * 2) % (m + 1);
    }
    return product;
  }

  /** The character that makes a text whole. The text holds characters of the alphabet only, else this throws. */
  of(text: string): string {
    const m = this.#alphabet.length;
    const product = this.#sum(text);
    if (product < 0) throw new Error('The text holds characters that are not in the alphabet.');
    return this.#alphabet.charAt((m + 1 - product) % m);
  }

  /** Whether the last character of a text is the check character of what is before it. */
  fits(text: string): boolean {
    const product = this.#sum(text.slice(0, -1));
    return text.length > 1 && product >= 0 && this.of(text.slice(0, -1)) === text.at(-1);
  }
}
