import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';

/** The mailbox stand-in as a process of its own, as it runs beside the application. */
export async function startMailbox(): Promise<{ port: number; stop: () => void }> {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-bench-'));
  const child = spawn('node', ['standins/dist/mailbox.js'], {
    env: { ...process.env, MAILBOX_FOLDER: folder },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const port = await new Promise<number>((resolve, reject) => {
    child.stdout.once('data', (d: Buffer) => resolve((JSON.parse(d.toString()) as { smtpPort: number }).smtpPort));
    child.once('exit', () => reject(new Error('The mailbox did not start.')));
  });
  return {
    port,
    stop: () => {
      child.kill('SIGTERM');
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
