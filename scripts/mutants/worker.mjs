// One process that brings mutants to life, one after the other, and says which test saw it. It is told by messages.
import { resolve } from 'node:path';
import { createVitest } from 'vitest/node';

const vitest = await createVitest('test', {
  config: resolve(import.meta.dirname, 'config.mjs'),
  reporters: [{ onInit() {} }],
  maxWorkers: 1,
  bail: 1,
  watch: false,
});

/** Runs the files with this mutant; the words of the test that saw it, or nothing. */
async function see({ mutant, met, files }) {
  const [project] = vitest.projects;
  project.provide('mutant', mutant);
  project.provide('met', met);
  const all = await vitest.globTestSpecifications();
  const wanted = files ? files.map((f) => all.find((s) => s.moduleId === f)) : all;
  const started = Date.now();
  const took = {};
  for (const one of wanted) {
    const { testModules, unhandledErrors } = await vitest.runTestSpecifications([one]);
    for (const module of testModules) {
      took[module.moduleId] = module.diagnostic().duration;
      const seen =
        [...module.children.allTests('failed')][0]?.fullName ?? (module.ok() ? undefined : 'it does not load');
      if (seen) return { seen: `${module.relativeModuleId}: ${seen}`, ms: Date.now() - started, took };
    }
    if (unhandledErrors.length) return { seen: String(unhandledErrors[0]), ms: Date.now() - started, took };
  }
  return { ms: Date.now() - started, took };
}

process.on('message', async (order) => process.send(await see(order).catch((e) => ({ error: String(e?.stack ?? e) }))));
process.send({ ready: true });
