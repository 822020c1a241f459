import http, { type Server } from 'node:http';
import { Counter, Gauge, Histogram, Registry } from 'prom-client';

/** What one process counts of itself, in the OpenMetrics text format. */
export const registry = new Registry<typeof Registry.OPENMETRICS_CONTENT_TYPE>();
registry.setContentType(Registry.OPENMETRICS_CONTENT_TYPE);
const registers = [registry];

export const roundSeconds = new Histogram({
  name: 'ascenso_round_seconds',
  help: 'How long a round of an engine took, by loop.',
  labelNames: ['loop'] as const,
  buckets: [0.005, 0.02, 0.1, 0.5, 2, 10, 60],
  registers,
});
export const failedRounds = new Counter({
  name: 'ascenso_rounds_failed',
  help: 'Rounds of an engine that failed and were tried again, by loop.',
  labelNames: ['loop'] as const,
  registers,
});
export const sendsAnswered = new Counter({
  name: 'ascenso_sends',
  help: 'Messages handed over, by what the receiving server answered: accepted, later, unanswered, or what a refusal was about.',
  labelNames: ['answer'] as const,
  registers,
});
export const returnedUnread = new Counter({
  name: 'ascenso_returned_unread',
  help: 'Messages of mail systems that came back to an email and were not understood.',
  registers,
});
export const webhooksAnswered = new Counter({
  name: 'ascenso_webhooks',
  help: 'Calls of other machines, by what came of them.',
  labelNames: ['answer'] as const,
  registers,
});
export const queriesTimedOut = new Counter({
  name: 'ascenso_queries_timed_out',
  help: 'Questions of users that were ended because they took too long.',
  registers,
});
export const promisesUnheard = new Counter({
  name: 'ascenso_promises_unheard',
  help: 'Failures that nobody was waiting for: each is a fault of ours, told in the log.',
  registers,
});
export const logLost = new Gauge({
  name: 'ascenso_log_lost',
  help: '1 while this process cannot write its log.',
  registers,
});
export const requestsAnswered = new Counter({
  name: 'ascenso_requests',
  help: 'Requests of the web process, by class of their status.',
  labelNames: ['status'] as const,
  registers,
});

/** Serves what an engine counts on a port of loopback. */
export async function serveMetrics(port: number): Promise<Server> {
  const server = http.createServer((req, res) => {
    if (req.url !== '/metrics') {
      res.writeHead(404).end();
      return;
    }
    registry.metrics().then(
      (text) => res.writeHead(200, { 'Content-Type': registry.contentType }).end(text),
      () => res.writeHead(500).end(),
    );
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', resolve);
  });
  return server;
}
