import { createCipheriv, createHash, randomBytes as trulyRandom, type Cipher } from 'node:crypto';

// Where ids and secrets take their chance from. There is one source, so that the demo's history can be made twice alike.

/** The stream of a seed, or null for true randomness. */
let stream: Cipher | null = null;
let madeAt: number | null = null;

/**
 * From now on chance follows a seed: the same calls in the same order give the same ids and secrets. For making the demo
 * and for nothing else: whoever knows the seed knows them all. `from` (epoch ms) is the moment that ids say they were made at.
 */
export function followSeed(seed: string, from: number): void {
  // AES in counter mode is a stream of numbers as good as random to whoever lacks the key (NIST SP 800-38A, 6.5).
  const key = createHash('sha256').update(seed).digest();
  stream = createCipheriv('aes-256-ctr', key, Buffer.alloc(16));
  madeAt = from;
}

/** Random bytes that nobody can foresee. */
export const randomBytes = (n: number): Buffer => stream?.update(Buffer.alloc(n)) ?? trulyRandom(n);

/** The moment (epoch ms) that an id made now tells. */
export const idMoment = (): number => madeAt ?? Date.now();
