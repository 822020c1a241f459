import pg from 'pg';

// int8 columns hold epoch ms and counts: well inside the exact integers of a double.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

/**
 * Opens connections to PostgreSQL: nobody else does (`.dependency-cruiser.cjs`). One that is lost, by a restart of the
 * server or a transaction that stood still for too long, fails its own query and is replaced. Without a listener on the
 * pool and on each client, idle and in use, that error would end the process.
 */
export function openPool(config: pg.PoolConfig): pg.Pool {
  const pool = new pg.Pool(config);
  pool.on('error', () => undefined);
  pool.on('connect', (client) => client.on('error', () => undefined));
  return pool;
}

export { pg };
