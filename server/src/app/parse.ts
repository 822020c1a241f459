import type { z } from 'zod';
import { UserError } from './errors.ts';

/** The first issue of a failed parse as the error that names field and fix. */
export function parseOrThrow<T>(schema: z.ZodType<T>, value: unknown): T {
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  const unknown = issue?.code === 'unrecognized_keys' ? issue.keys[0] : undefined;
  const field = [...(issue?.path ?? []), ...(unknown ? [unknown] : [])].join('.');
  const message = unknown
    ? `There is no field “${unknown}” here: take it out or correct its name.`
    : (issue?.message ?? 'That is not allowed here.');
  throw new UserError(422, 'invalid', field ? `${field}: ${message}` : message, field || undefined);
}
