import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import type * as schema from './schema/index.ts';

export type Db = NodePgDatabase<typeof schema>;
export type Tx = Parameters<Parameters<Db['transaction']>[0]>[0];
/** Either: what a query can run on. */
export type Executor = Db | Tx;
