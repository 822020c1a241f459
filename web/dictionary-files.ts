import { createRequire } from 'node:module';
import path from 'node:path';

// The packages export a reader for Node only; a page wants the files themselves.
const packages = path.dirname(path.dirname(createRequire(import.meta.url).resolve('dictionary-en')));

/** Where the bundler finds `dictionary-files/de/index.aff`: in the package dictionary-de. */
export const dictionaryFiles = { find: /^dictionary-files\/([\w-]+)\//, replacement: `${packages}/dictionary-$1/` };
