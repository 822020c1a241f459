import path from 'node:path';
import { build, type Rollup } from 'vite';
import type { Page } from 'playwright-core';

const ENTRY = 'virtual:bare-editor';
const SOURCE = `
import { Editor } from '@tiptap/core';
import StarterKit from '@tiptap/starter-kit';
const element = document.createElement('div');
document.body.prepend(element);
new Editor({ element, extensions: [StarterKit], content: '<p>x</p>', editorProps: { attributes: { id: 'bare' } } });
`;

/** Puts a TipTap editor with its starter kit, and nothing else of ours, into a page: its field is `#bare`. */
export async function putBareEditor(page: Page): Promise<void> {
  const made = (await build({
    configFile: false,
    logLevel: 'error',
    root: path.resolve(import.meta.dirname, '../../../web'),
    plugins: [
      {
        name: 'bare-editor',
        resolveId: (id) =>
          id === ENTRY ? `${path.resolve(import.meta.dirname, '../../../web/bare-editor.js')}` : null,
        load: (id) => (id.endsWith('/web/bare-editor.js') ? SOURCE : null),
      },
    ],
    build: { write: false, minify: false, rollupOptions: { input: ENTRY, output: { format: 'iife' } } },
  })) as Rollup.RollupOutput;
  // As an expression of the page's own tools: what the page may load is the application's to say.
  await page.evaluate(made.output[0].code);
}
