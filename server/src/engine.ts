import { log, onStop, openConnection, openSending, readConfig } from './app/config.ts';
import { startLoops } from './engine/loops.ts';

// An engine process: advances visits and sends. Run as many as wanted.
const config = readConfig();
const connection = openConnection(config);
const sending = await openSending(config, connection);
const stop = startLoops(connection, sending, (error) =>
  log.error({ error: String((error as Error).cause ?? error) }, 'a round failed and will be tried again'),
);
console.log(JSON.stringify({ ready: true }));
onStop(async () => {
  await stop();
  sending.transport.close();
  await connection.close();
});
