import { expose } from 'comlink';
import {
  compileEmail,
  evaluate,
  fillProgram,
  supportOf,
  valuesFor,
  type CompileOptions,
  type Email,
  type FilledEmail,
  type HouseStyle,
  type Program,
  type Unsupported,
} from '@ascenso/core';
import type { Reading } from './reading.ts';

export type Rendered = FilledEmail & {
  bytes: number;
  /** Why it could not be compiled, or null. */
  problem: string | null;
};

/** The last few programs: while only the reader changes, or five of them read at once, nothing is compiled anew. */
const programs = new Map<string, Promise<Program>>();
const KEPT = 8;

function programOf(email: Email, style: HouseStyle, options: CompileOptions): Promise<Program> {
  const key = JSON.stringify([email, style, options]);
  const known = programs.get(key) ?? compileEmail(email, style, options);
  programs.delete(key);
  programs.set(key, known);
  if (programs.size > KEPT) programs.delete(programs.keys().next().value as string);
  return known;
}

const api = {
  /** What of a finished email is not known by every mail program. */
  support: (html: string): Unsupported[] => supportOf(html),

  /** Compiles an email and fills it for one reader; the same code as the server's. */
  async render(email: Email, style: HouseStyle, options: CompileOptions, { context, facts }: Reading): Promise<Rendered> {
    let program: Program;
    try {
      program = await programOf(email, style, options);
    } catch (error) {
      return { subject: '', preview: '', html: '', text: '', bytes: 0, problem: (error as Error).message };
    }
    const now = Date.now();
    const holds = (c: Parameters<typeof evaluate>[0]) =>
      facts !== null && evaluate(c, { facts, now, enteredAt: 0, stepTimes: {} });
    const filled = fillProgram(program, valuesFor(program, { ...context, holds }), {
      base: '',
      unsubscribe: '#',
      open: 'data:,',
      link: (_ref, target) => (target.startsWith('file:') ? `/f/${target.slice(5)}` : target || '#'),
    });
    return { ...filled, bytes: program.bytes, problem: null };
  },
}; // prettier-ignore
export type PreviewApi = typeof api;
expose(api);
