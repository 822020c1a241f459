/** Names that a condition refers to by id or key. Each answers with a word for the screen. */
export interface Names {
  list: (id: string) => string;
  event: (name: string) => string;
  step: (id: string) => string;
  file: (id: string) => string;
  segment: (id: string) => string;
  sequence: (id: string) => string;
  offer: (id: string) => string;
  /** A form, by its id or by what a sender of events calls it. */
  form: (id: string) => string;
  /** An email of any sequence, by both ids. */
  email: (sequence: string, step: string) => string;
}

const same = (id: string) => id;
export const plainNames: Names = {
  list: same,
  event: same,
  step: same,
  file: same,
  segment: same,
  sequence: same,
  offer: same,
  form: same,
  email: (_sequence, step) => step,
};
