// Builds the one slim mjml bundle that Node and the composer's web worker share.
// mjml-core is bundled without its HTML parser, minifiers and inliners: Ascenso hands it a JSON tree and squeezes
// the result itself, so that what remains runs without a DOM, a file system or process globals.
import { build } from 'esbuild';
import { fileURLToPath } from 'node:url';
import path from 'node:path';

const here = path.dirname(fileURLToPath(import.meta.url));
const EMPTY = new Set([
  'htmlnano',
  'juice',
  'cssnano',
  'cssnano-preset-lite',
  'js-beautify',
  'postcss',
  'mjml-parser-xml',
  'cheerio',
  'fs',
  'prettier',
]);

const slim = {
  name: 'slim',
  setup(b) {
    b.onResolve({ filter: /.*/ }, (args) => {
      const name = args.path.replace(/^node:/, '');
      const root = name.startsWith('@') ? name : name.split('/')[0];
      if (EMPTY.has(root)) return { path: root, namespace: 'empty' };
      if (name === 'path') return b.resolve('path-browserify', { kind: args.kind, resolveDir: here });
      if (name === 'detect-node') return { path: 'detect-node', namespace: 'no' };
      return undefined;
    });
    b.onLoad({ filter: /.*/, namespace: 'empty' }, () => ({
      contents: 'module.exports = {}; module.exports.default = {};',
    }));
    b.onLoad({ filter: /.*/, namespace: 'no' }, () => ({ contents: 'module.exports = false;' }));
  },
};

await build({
  entryPoints: [path.join(here, 'entry.js')],
  outfile: path.join(here, 'dist/index.js'),
  bundle: true,
  minify: true,
  format: 'esm',
  platform: 'browser',
  mainFields: ['main', 'module'],
  target: 'es2022',
  define: { 'process.env.NODE_ENV': '"production"', 'process.env': '{}', global: 'globalThis' },
  plugins: [slim],
  logLevel: 'warning',
  legalComments: 'eof',
});
