import { BaseSequencer } from 'vitest/node';

/** Files that take longest, as far as that is known: what is begun last must not be what takes a minute. */
const LONGEST = [
  'simulation',
  'running/demo',
  'kill',
  'running/broken-off',
  'soak',
  'spam',
  'histories',
  'running/launcher',
  'one-offs',
  'running/taken-away',
];

/** Vitest goes by size of the file on a machine that has not run it yet: the longest of ours are short texts. */
export default class LongestFirst extends BaseSequencer {
  async sort(files) {
    const sorted = await super.sort(files);
    const rank = ({ moduleId }) => {
      const at = LONGEST.findIndex((name) => moduleId.endsWith(`/test/${name}.test.ts`));
      return at < 0 ? LONGEST.length : at;
    };
    return sorted.sort((a, b) => rank(a) - rank(b));
  }
}
