/** Tells each browser test as it ends, and how many there are; faults are told in full at the end. */
export default class Progress {
  #all = 0;
  #done = 0;
  #faults = [];

  onBegin(_config, suite) {
    this.#all = suite.allTests().length;
  }

  onTestEnd(test, result) {
    this.#done++;
    const title = test.titlePath().slice(3).join(' › ');
    const how = result.status === 'passed' ? '' : `  ${result.status.toUpperCase()}`;
    console.log(`  ${this.#done} of ${this.#all}  ${title}  ${(result.duration / 1000).toFixed(1)} s${how}`);
    if (result.status !== 'passed')
      this.#faults.push(`${title}\n${result.errors.map((e) => e.stack ?? e.message ?? '').join('\n')}`);
  }

  onEnd() {
    for (const fault of this.#faults) console.log(`\n${fault}`);
  }

  printsToStdio() {
    return true;
  }
}
