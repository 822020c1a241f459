import { log, onStop, openConnection, openSending, readConfig } from './app/config.ts';
import { httpCrowd } from './engine/http-crowd.ts';
import { createServer } from './app/server.ts';

// The web process: pages, API, intake and public doors.
const config = readConfig();
const connection = openConnection(config);
const sending = await openSending(config, connection);
const crowd = config.crowdUrl ? httpCrowd(config.crowdUrl) : null;
const { mailboxUrl, shopUrl, trustProxy } = config;
const app = createServer({ connection, sending, mailboxUrl, shopUrl, crowd, log, trustProxy }, config.pages);
const server = app.listen(config.port, config.host, () =>
  console.log(JSON.stringify({ ready: true, base: config.base })),
);
onStop(async () => {
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
  sending.transport.close();
  await connection.close();
});
