import { parentPort } from 'node:worker_threads';
import { readReport } from './reports.ts';

// Reads messages that came back in a thread of its own, one after the other: whatever a writer has thought of costs this thread, and
// no other. It says once that it is there, then what each message reports.
const port = parentPort;
port?.on('message', (source: Uint8Array) => {
  readReport(Buffer.from(source)).then(
    (report) => port.postMessage(report),
    (error: unknown) => {
      // What cannot be read ends the thread: whoever asked is told.
      throw error;
    },
  );
});
port?.postMessage('ready');
