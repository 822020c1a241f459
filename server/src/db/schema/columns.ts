import { bigint, customType, uuid } from 'drizzle-orm/pg-core';

// Instants are epoch ms in bigint columns. workspace_id comes first in every key; ids are UUIDv7 made outside.
export const ms = (name: string) => bigint(name, { mode: 'number' });
export const bytea = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
export const ws = () => uuid('workspace_id').notNull();
