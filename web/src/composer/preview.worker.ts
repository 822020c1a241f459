import { expose } from 'comlink';
import {
  compileEmail,
  fillProgram,
  valuesFor,
  type Email,
  type FilledEmail,
  type HouseStyle,
  type MergeContext,
  type Program,
} from '@ascenso/core';

let last: { key: string; program: Program } | null = null;

const api = {
  /** Compiles an email and fills it for one reader; the same code as the server's. The program is kept while only the reader changes. */
  async render(email: Email, style: HouseStyle, context: MergeContext): Promise<FilledEmail & { bytes: number }> {
    const key = JSON.stringify([email, style]);
    if (last?.key !== key) last = { key, program: await compileEmail(email, style) };
    const filled = fillProgram(last.program, valuesFor(last.program, context), {
      base: '',
      unsubscribe: '#',
      open: 'data:,',
      link: (_n, target) => (target.startsWith('file:') ? `/f/${target.slice(5)}` : target || '#'),
    });
    return { ...filled, bytes: last.program.bytes };
  },
};
export type PreviewApi = typeof api;
expose(api);
