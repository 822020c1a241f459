import { v7 } from 'uuid';

/** A new UUIDv7: ordered by the time it was made. */
export const newId = (): string => v7();
