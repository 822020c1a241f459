/** An error that the caller can mend: a code, a sentence, and the field it is about. Mapped to HTTP in one place. */
export class UserError extends Error {
  readonly status: number;
  readonly code: string;
  readonly field: string | undefined;
  constructor(status: number, code: string, message: string, field?: string) {
    super(message);
    this.status = status;
    this.code = code;
    this.field = field;
  }
}

export const notFound = (what: string) =>
  new UserError(404, 'not-found', `There is no such ${what}. It may have been deleted.`);
export const invalid = (field: string, message: string) => new UserError(422, 'invalid', message, field);
