import { pino, type Level, type Logger } from 'pino';
import type { Config } from './config.ts';
import { LogFile } from './log-file.ts';
import { promisesUnheard } from './metrics.ts';

// What is personal never reaches a log: addresses are blanked, of a database's errors only what names no value is
// kept, and requests are told by their route and not by what was filled in.

/** An error as it is told in a log: `code`, where it came from, and its words without anybody's data. */
export interface Told {
  error: string;
  code?: string;
  at?: string;
  stack?: string;
}

const blank = (text: string) =>
  text
    .replace(/[^\s"'<>(),;:@]{1,254}@[^\s"'<>(),;:]+/g, '…@…')
    .replace(/"[^"]*"|'[^']*'|“[^“”]*”/g, '"…"')
    .slice(0, 500);

/** Drizzle puts all parameters into its message, PostgreSQL values into its own: the cause is told, and blanked. */
export function told(error: unknown): Told {
  const cause = (error as Error | undefined)?.cause ?? error;
  if (!(cause instanceof Error)) return { error: blank(String(cause)) };
  const { code, table, constraint, routine } = cause as Error & Record<string, string | undefined>;
  const at = [table, constraint, routine].filter(Boolean).join(' ');
  // The first line of a stack is the message again.
  const stack = cause.stack?.split('\n').filter((line) => /^\s+at /.test(line));
  return {
    error: blank(cause.message),
    ...(code ? { code } : {}),
    ...(at ? { at } : {}),
    ...(stack ? { stack: stack.join('\n') } : {}),
  };
}

/** JSON lines in a file of this process, which rotates; errors in the terminal too. Without a folder all of it is there. */
export function openLog(name: string, { logFolder, logLevel }: Pick<Config, 'logFolder' | 'logLevel'>): Logger {
  const base = { process: name, pid: process.pid };
  if (!logFolder) return pino({ level: logLevel ?? 'warn', base }, pino.destination(2));
  const level = (logLevel ?? 'info') as Level;
  const terminal = pino.destination(2);
  // A terminal that was closed takes no more words.
  terminal.on('error', () => undefined);
  const streams = [
    { level, stream: new LogFile(logFolder, name) },
    { level: 'error' as const, stream: terminal },
  ];
  return pino({ level, base }, pino.multistream(streams));
}

/** Hears what fails with nobody waiting for it: lint finds such places, and what it does not find must end no process. */
export function hearAll(log: Logger): void {
  process.on('unhandledRejection', (error) => {
    promisesUnheard.inc();
    log.error(told(error), 'something failed that nobody was waiting for');
  });
}
