import { testRunsFrom, type Advanced, type Facts, type TestFact } from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import type { LoadedVersion } from '../db/versions.ts';
import { beginSplitTests, splitTestsOf, type SplitTestRow } from '../sequences/split-tests.ts';
import type { ClaimedRow } from './effects.ts';

type Began = Parameters<typeof beginSplitTests>[1][number];

/** How far the splits that decide themselves are, for one round; and which of them somebody has begun. */
export class TestLedger {
  readonly #facts = new Map<string, Record<string, TestFact>>();
  /** Tests that nobody has begun, by sequence and step. */
  readonly #waiting = new Set<string>();
  readonly #begun: Began[] = [];

  private constructor(tests: readonly SplitTestRow[]) {
    for (const t of tests) {
      const fact: TestFact = { arm: t.arm, decidesAt: t.rule.after ? t.next_at : null };
      this.#facts.set(t.sequence_id, { ...this.#facts.get(t.sequence_id), [t.step]: fact });
      if (t.arm === null && t.next_at === null) this.#waiting.add(`${t.sequence_id} ${t.step}`);
    }
  }

  static async open(
    tx: Tx,
    claimed: readonly ClaimedRow[],
    versionOf: (row: ClaimedRow) => LoadedVersion,
  ): Promise<TestLedger> {
    const sequences = claimed.filter((r) => versionOf(r).ruled.length > 0).map((r) => r.sequence_id);
    return new TestLedger(await splitTestsOf(tx, [...new Set(sequences)]));
  }

  with(facts: Facts, row: ClaimedRow): Facts {
    const tests = this.#facts.get(row.sequence_id);
    return tests ? { ...facts, tests } : facts;
  }

  /** Notes the first who take part in a test. */
  note(row: ClaimedRow, version: LoadedVersion, { trace }: Advanced): void {
    for (const step of version.ruled) {
      if (!this.#waiting.has(`${row.sequence_id} ${step.id}`)) continue;
      const taken = trace.find((t) => t.step === step.id && t.code === 'split-taken');
      if (!taken) continue;
      const runsFrom = testRunsFrom(version.run.sequence, taken.at);
      this.#begun.push({ w: row.workspace_id, sequence: row.sequence_id, step, at: taken.at, runsFrom });
    }
  }

  write(tx: Tx): Promise<void> {
    return beginSplitTests(tx, this.#begun);
  }
}
