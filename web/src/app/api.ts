import { createApi, type BaseQueryFn } from '@reduxjs/toolkit/query/react';
import type { ErrorAnswer, Me } from '@ascenso/contracts';
import { noteAge } from './ages.ts';
import { TAGS } from './tags.ts';

export interface Failure {
  status: number;
  message: string;
  field: string | undefined;
  code: string;
}

export interface Request {
  url: string;
  method?: string;
  body?: unknown;
}

/** A request that outlives its page may carry this much (Fetch standard: 64 KiB over all of them). */
const KEPT_ALIVE = 30_000;

/** A body with its headers. What is small is sent to its end even when the page is left at that moment. */
function bodyOf(body: unknown): RequestInit {
  if (body instanceof FormData) return { body };
  const text = JSON.stringify(body);
  return { body: text, headers: { 'Content-Type': 'application/json' }, keepalive: text.length < KEPT_ALIVE };
}

/** Calls the server; a failure is its own sentence, ready to show. */
export async function call<T>({ url, method = 'GET', body }: Request): Promise<{ data: T } | { error: Failure }> {
  try {
    const answer = await fetch(`/api${url}`, { method, ...(body === undefined ? {} : bodyOf(body)) });
    noteAge(url, Number(answer.headers.get('Age') ?? 0));
    const data: unknown = await answer.json();
    if (answer.ok) return { data: data as T };
    const { error } = data as ErrorAnswer;
    return { error: { status: answer.status, message: error.message, field: error.field, code: error.code } };
  } catch {
    return {
      error: {
        status: 0,
        message: 'The server cannot be reached. Check that Ascenso is running, then try again.',
        field: undefined,
        code: 'offline',
      },
    };
  }
}

const baseQuery: BaseQueryFn<Request | string, unknown, Failure> = (request) =>
  call(typeof request === 'string' ? { url: request } : request);

export const api = createApi({
  baseQuery,
  tagTypes: TAGS,
  endpoints: (b) => ({
    me: b.query<Me, void>({ query: () => '/session', providesTags: ['me'] }),
    signIn: b.mutation<object, { email: string; password: string }>({
      query: (body) => ({ url: '/session', method: 'POST', body }),
      invalidatesTags: (_r, error) => (error ? [] : ['me']),
    }),
  }),
});

export const { useMeQuery, useSignInMutation } = api;

/** The sentence of a failure. */
export const sentence = (error: unknown): string =>
  (error as Failure | undefined)?.message ?? 'Something went wrong. Try again.';
