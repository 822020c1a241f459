export interface Cluster {
  url: (database: string) => string;
  bin: string;
  data: string;
  stop: () => Promise<void>;
  remove: () => Promise<void>;
}
/** `log` is the file that it says everything in. */
export interface Replica {
  url: (database: string) => string;
  log: string;
  stop: () => Promise<void>;
  remove: () => Promise<void>;
}
export function startPostgres(name: string, options?: { fresh?: boolean; fast?: boolean }): Promise<Cluster>;
export function startReplica(cluster: Cluster): Promise<Replica>;
export function ensureDatabase(cluster: Cluster, name: string): Promise<void>;
export function runTool(command: string, address: string, args: string[]): Promise<string>;
