export { LineEditor, LineOnPage } from './line.tsx';
export { RichEditor } from './text.tsx';
