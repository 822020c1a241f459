import { launch } from './run.mjs';

/** Pauses before a process is started again, ms: the last goes on. One that has run for a minute begins anew. */
const PAUSES = [1_000, 2_000, 5_000, 15_000, 60_000];
const RAN_WELL = 60_000;

const seconds = (ms) => `${Math.round(ms / 1000)} s`;

/**
 * Keeps something going: `begin` starts it and resolves once it is ready, with `ended`, a promise of how it ended. When it
 * ends by itself it is begun again after a pause that grows, and `report` tells. `stop` ends it for good.
 */
export function keepGoing(name, begin, report) {
  let stopped = false;
  let current = null;
  let failures = 0;
  let wake = () => {};
  const pause = (ms) =>
    new Promise((resolve) => {
      wake = resolve;
      setTimeout(resolve, ms).unref();
    });
  const watch = async () => {
    while (!stopped) {
      const begun = Date.now();
      const how = await current.ended;
      if (stopped) return;
      if (Date.now() - begun > RAN_WELL) failures = 0;
      for (;;) {
        const wait = PAUSES[Math.min(failures, PAUSES.length - 1)];
        failures++;
        report(
          `${name[0].toUpperCase()}${name.slice(1)} has ended (${how}). It is started again in ${seconds(wait)} …`,
        );
        await pause(wait);
        if (stopped) return;
        try {
          current = await begin();
          report(`${name[0].toUpperCase()}${name.slice(1)} is back.`);
          break;
        } catch (error) {
          report(error.message);
        }
      }
    }
  };
  const ready = begin().then((first) => {
    current = first;
    void watch();
  });
  const stop = async () => {
    stopped = true;
    wake();
    await ready.catch(() => undefined);
    await current?.stop();
  };
  return { name, ready, stop, current: () => current };
}

/** Keeps a process of ours going. `note` is called with the number of each that is begun. */
export function keepProcess(name, file, { env, report, note }) {
  const begin = async () => {
    const started = launch(name, 'node', [file], { env });
    note(name, started.child.pid);
    const ended = new Promise((resolve) => started.child.on('exit', (code, signal) => resolve(signal ?? code)));
    await started.ready;
    return { ...started, ended };
  };
  return keepGoing(`the ${name}`, begin, report);
}
