import { parentPort, workerData } from 'node:worker_threads';
import { readReport } from './reports.ts';

// Reads one message that came back, in a thread of its own: whatever its writer has thought of costs this thread, and no other.
parentPort?.postMessage(await readReport(Buffer.from(workerData as Uint8Array)));
