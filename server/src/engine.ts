import { onStop, openConnection, openSending, readConfig } from './app/config.ts';
import { hearAll, openLog, told } from './app/log.ts';
import { serveMetrics } from './app/metrics.ts';
import { startLoops } from './engine/loops.ts';

// An engine process: advances visits and sends. Run as many as wanted.
const config = readConfig();
const log = openLog(process.env.ENGINE_NAME ?? 'engine', config);
hearAll(log);
const connection = openConnection(config);
const sending = await openSending(config, connection);
const metrics = config.metricsPort === null ? null : await serveMetrics(config.metricsPort);
const stop = startLoops(connection, sending, (error, loop) =>
  log.error({ loop, ...told(error) }, 'a round failed and will be tried again'),
);
log.info('at work');
console.log(JSON.stringify({ ready: true }));
onStop(async () => {
  await stop();
  metrics?.close();
  sending.transport.close();
  await connection.close();
  log.info('stopped');
});
