import type { SaveAnswer, SequenceAnswer } from '@ascenso/contracts';
import { rebase, type Edit, type Saved, type Sequence } from '@ascenso/core';

/** A draft as the server keeps it (server/src/sequences/drafts.ts), in memory, by the same rebase. */
export class DraftServer {
  readonly first: Sequence;
  doc: Sequence;
  readonly log: (Saved & { user: string })[] = [];

  constructor(doc: Sequence) {
    this.first = doc;
    this.doc = doc;
  }

  get revision(): number {
    return this.log.length;
  }

  since(base: number, user: string): Saved[] {
    return this.log.slice(base).map(({ user: u, ...saved }) => ({ ...saved, mine: u === user }));
  }

  read(user: string): SequenceAnswer {
    return {
      id: 'draft',
      status: 'draft',
      liveVersion: null,
      revision: this.revision,
      unpublished: true,
      behind: [],
      liveTriggers: [],
      letInAt: null,
      draft: this.doc,
      log: this.since(0, user),
      tested: {},
      person: null,
      template: null,
    };
  }

  save(user: string, { base, edits }: { base: number; edits: Edit[] }): SaveAnswer {
    const ids = edits.map((e) => e.id);
    const fresh = edits.filter((e) => !this.log.some((l) => l.id === e.id));
    const others = this.since(base, user).filter((o) => o.id === null || !ids.includes(o.id));
    const { doc, applied, aside, moot } = rebase(fresh, others, this.doc);
    this.doc = doc;
    for (const edit of applied) this.log.push({ ...edit, revision: this.revision + 1, by: user, user, mine: false });
    return {
      revision: this.revision,
      unpublished: true,
      edits: this.since(base, user),
      aside: aside.map(({ edit, over, why }) => ({ id: edit.id, over, why })),
      moot,
    };
  }
}
