import { expose } from 'comlink';
import {
  compileEmail,
  evaluate,
  fillProgram,
  supportOf,
  valuesFor,
  type After,
  type CompileOptions,
  type Email,
  type FilledEmail,
  type HouseStyle,
  type Offer,
  type Program,
  type TimerPlan,
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

/** What a preview is compiled with, and the offers that its timers may count to. */
export interface PreviewOptions extends CompileOptions {
  offers?: Readonly<Record<string, Offer>>;
}

/** Pictures by what was asked: data addresses, since the frame of a preview can fetch nothing. */
const pictures = new Map<string, Promise<string>>();

/** A timer drawn by the server as it would be at this moment, as a data address. */
function pictureOf(
  plan: TimerPlan,
  value: { at: number | null; language: string } | undefined,
  over: After | undefined,
  now: number,
): Promise<string> {
  if (value?.at == null) return Promise.resolve('data:,');
  const left = Math.max(0, Math.floor((value.at - now) / 1000));
  const body = JSON.stringify({
    face: plan.face,
    left,
    after: plan.after ?? over ?? { kind: 'zeros' },
    language: value.language,
  });
  const known = pictures.get(body) ?? draw(body).catch(() => 'data:,');
  pictures.delete(body);
  pictures.set(body, known);
  if (pictures.size > 40) pictures.delete(pictures.keys().next().value as string);
  return known;
}

async function draw(body: string): Promise<string> {
  const answer = await fetch('/api/timers/preview', {
    method: 'POST',
    body,
    headers: { 'Content-Type': 'application/json' },
  });
  const bytes = new Uint8Array(await answer.arrayBuffer());
  if (!answer.ok) return 'data:,';
  let text = '';
  for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return `data:image/gif;base64,${btoa(text)}`;
}

const api = {
  /** What of a finished email is not known by every mail program. */
  support: (html: string): Unsupported[] => supportOf(html),

  /** Compiles an email and fills it for one reader; the same code as the server's. */
  async render(
    email: Email,
    style: HouseStyle,
    options: PreviewOptions,
    { now, context, facts }: Reading,
  ): Promise<Rendered> {
    let program: Program;
    try {
      program = await programOf(email, style, options);
    } catch (error) {
      return { subject: '', preview: '', html: '', text: '', bytes: 0, problem: (error as Error).message };
    }
    const holds = (c: Parameters<typeof evaluate>[0]) =>
      facts !== null && evaluate(c, { facts, now, enteredAt: 0, stepTimes: {} });
    const values = valuesFor(program, { ...context, holds });
    const timers = await Promise.all(
      (program.timers ?? []).map((plan, n) =>
        pictureOf(plan, values.timers?.[n], options.offers?.[program.offer ?? '']?.after, now),
      ),
    );
    const filled = fillProgram(program, values, {
      timer: (n) => timers[n] ?? 'data:,',
      base: '',
      unsubscribe: '#',
      open: 'data:,',
      link: (_ref, target) => (target.startsWith('file:') ? `/f/${target.slice(5)}` : target || '#'),
    });
    return { ...filled, bytes: program.bytes, problem: null };
  },
};
export type PreviewApi = typeof api;
expose(api);
