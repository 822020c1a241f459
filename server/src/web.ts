import { followSeed } from './app/chance.ts';
import { countsBeyond, MANY_PEOPLE } from './app/kept.ts';
import { onStop, openConnection, openReading, openSending, readConfig } from './app/config.ts';
import { hearAll, openLog, told } from './app/log.ts';
import { createServer } from './app/server.ts';
import { openInbox } from './mail/inbox.ts';
import { ReportReader } from './mail/reading-reports.ts';
import { httpCrowd } from './engine/http-crowd.ts';

// The web process: pages, API, intake and public doors.
const config = readConfig();
if (config.seed) followSeed(`web ${config.seed.text}`, config.seed.from);
const log = openLog('web', config);
hearAll(log);
const connection = openConnection(config);
const reading = openReading(config, connection);
const counts = countsBeyond(MANY_PEOPLE, connection.db);
const sending = await openSending(config, connection);
const crowd = config.crowdUrl ? httpCrowd(config.crowdUrl) : null;
const { mailboxUrl, shopUrl, mailTo, trustProxy, metricsToken } = config;
const app = createServer(
  { connection, reading, counts, sending, mailboxUrl, shopUrl, mailTo, crowd, log, trustProxy, metricsToken },
  config.pages,
);
const server = app.listen(config.port, config.host, (error) => {
  // The port is taken, or not ours to open.
  if (error) throw error;
  log.info({ base: config.base }, 'listening');
  console.log(JSON.stringify({ ready: true, base: config.base }));
});
const inbox = config.inbox
  ? await openInbox(
      {
        db: connection.db,
        secret: sending.secret,
        tls: config.inbox.tls,
        reader: new ReportReader(new URL('./report-worker.js', import.meta.url)),
        onError: (error) => log.error(told(error), 'mail that came back could not be taken'),
      },
      config.inbox.host,
      config.inbox.port,
    )
  : null;
// Longer than proxies and clients keep an idle connection: whoever hangs up first must not be the one who is asked next.
server.keepAliveTimeout = 65_000;
onStop(async () => {
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
  await inbox?.close();
  sending.transport.close();
  await reading.close();
  await connection.close();
  log.info('stopped');
});
