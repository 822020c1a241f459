export { LineEditor } from './line.tsx';
export { RichEditor } from './text.tsx';
