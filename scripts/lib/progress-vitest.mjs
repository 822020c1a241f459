import path from 'node:path';

const seconds = (ms) => `${(ms / 1000).toFixed(1)} s`;

/** Tells each file of tests as it ends, and how many there are; vitest's own reporter tells faults at the end. */
export default class Progress {
  #all = 0;
  #done = 0;

  onTestRunStart(files) {
    this.#all = files.length;
  }

  onTestModuleEnd(module) {
    const tests = [...module.children.allTests()];
    const failed = tests.filter((t) => t.result().state === 'failed');
    const name = path.relative(process.cwd(), module.moduleId);
    this.#done++;
    const what = failed.length > 0 ? `FAILED ${failed.map((t) => t.name).join('; ')}` : `${tests.length} tests`;
    console.log(`  ${this.#done} of ${this.#all} files  ${name}  ${what}, ${seconds(module.diagnostic().duration)}`);
  }
}
