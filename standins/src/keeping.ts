import { renameSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';

/**
 * Lets connections lie idle longer than any client does, ms: a server that hangs up at the moment of the next request
 * answers it with a reset, which a busy machine makes likely.
 */
export function staysOnTheLine(server: Server): Server {
  server.keepAliveTimeout = 65_000;
  return server;
}

/** Ends a process in order on Ctrl C and on kill, whatever becomes of its last work. */
export function onStop(stop: () => Promise<void>): void {
  for (const signal of ['SIGTERM', 'SIGINT'] as const)
    process.once(signal, () => {
      stop().then(
        () => process.exit(0),
        () => process.exit(1),
      );
    });
}

/** Writes a file whole or not at all: what a kill cuts off would not be readable at the next start. */
export function writeWhole(file: string, text: string): void {
  writeFileSync(`${file}.new`, text);
  renameSync(`${file}.new`, file);
}
