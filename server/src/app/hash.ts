import { createHash } from 'node:crypto';

/** SHA-256 as hex: of keys, tokens and contents. */
export const sha256 = (text: string | Buffer): string => createHash('sha256').update(text).digest('hex');
