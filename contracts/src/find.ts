// What is found by words, wherever it is.

export type FoundKind = 'sequence' | 'offer' | 'list' | 'template' | 'segment' | 'form' | 'person';

/** A thing that is called so. */
export interface FoundThing {
  kind: FoundKind;
  id: string;
  name: string;
  /** What tells it from others of its name: the address of a person; '' for none. */
  note: string;
}

/** An email of a draft that is called so, has such a subject, or says so. */
export interface FoundEmail {
  sequence: { id: string; name: string };
  step: string;
  name: string;
  subject: string;
  /** The words around what was found in its text; '' where its name or subject has it. */
  excerpt: string;
}

export interface FindAnswer {
  things: FoundThing[];
  emails: FoundEmail[];
}
