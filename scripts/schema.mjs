import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { root, run } from './lib/run.mjs';

// Writes docs/sequence-file.schema.json anew from the contract. A test holds the two together.
const text = await run('node', [
  '--import',
  'tsx',
  '-e',
  "import('./contracts/src/index.ts').then((c) => console.log(JSON.stringify(c.sequenceFileJsonSchema(), null, 2)))",
]);
writeFileSync(path.join(root, 'docs/sequence-file.schema.json'), text);
