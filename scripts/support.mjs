import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { format, resolveConfig } from 'prettier';
import { root } from './lib/run.mjs';

// Writes core/src/email/support-data.ts anew from the caniemail package's data (MIT): for each CSS property, HTML element and
// media query that an email of ours can have, the mail programs whose newest tested version does not know it.
const file = createRequire(path.join(root, 'core/package.json'))
  .resolve('caniemail')
  .replace(/caniemail\/.*$/, 'caniemail/data/caniemail.json');
const { data, nicenames } = JSON.parse(readFileSync(file, 'utf8'));
const KEPT =
  /^(css-(?!pseudo|selector|function|unit|at-font|at-import|at-key|at-supports|sytem|modern|nesting|variables)|html-(?!form|input|button|select|textarea|dialog|aria|meter|progress|popover|video|audio|object))/;

const without = (stats) =>
  Object.entries(stats).flatMap(([family, platforms]) =>
    Object.entries(platforms).flatMap(([platform, versions]) =>
      String(Object.values(versions).at(-1)).startsWith('n')
        ? [`${nicenames.family[family] ?? family}, ${nicenames.platform[platform] ?? platform}`]
        : [],
    ),
  );
const table = Object.fromEntries(
  data
    .filter((f) => KEPT.test(f.slug))
    .map((f) => [f.slug, without(f.stats)])
    .filter(([, list]) => list.length > 0),
);

const target = path.join(root, 'core/src/email/support-data.ts');
const text = `// Written by scripts/support.mjs from the data of caniemail.com (MIT), as of ${JSON.parse(readFileSync(file, 'utf8')).last_update_date.slice(0, 10)}. Not edited by hand.
/** Mail programs that do not know a feature, by the feature's name there. */
export const notKnownIn: Readonly<Record<string, readonly string[]>> = ${JSON.stringify(table)};
`;
writeFileSync(target, await format(text, { ...(await resolveConfig(target)), filepath: target }));
