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
  let beginning = Promise.resolve(false);
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
        beginning = begin().then(
          (next) => {
            current = next;
            return true;
          },
          (error) => {
            report(error.message);
            return false;
          },
        );
        if (!(await beginning)) continue;
        if (!stopped) report(`${name[0].toUpperCase()}${name.slice(1)} is back.`);
        break;
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
    // What is just being started again is waited for: nothing stays behind.
    await beginning;
    await current?.stop();
  };
  return { name, ready, stop, current: () => current };
}

/** Keeps a process of ours going. `note` is called with the number of each that is begun. */
export function keepProcess(name, file, { env, report, note }) {
  const begin = async () => {
    const started = launch(name, 'node', [file], { env });
    // Told below; a note that cannot be written must not leave it unheard.
    started.ready.catch(() => undefined);
    const ended = new Promise((resolve) => started.child.on('exit', (code, signal) => resolve(signal ?? code)));
    try {
      note(name, started.child.pid);
      await started.ready;
    } catch (error) {
      await started.stop();
      throw error;
    }
    return { ...started, ended };
  };
  return keepGoing(`the ${name}`, begin, report);
}
