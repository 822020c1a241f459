import {
  applyCommands,
  keepSteps,
  CommandError,
  rebase,
  stacksOf,
  withOthers,
  withOwn,
  type Command,
  type Edit,
  type Saved,
  type Sequence,
  type SetAside,
  type Stacks,
} from '@ascenso/core';
import type { SaveAnswer, SequenceAnswer } from '@ascenso/contracts';

/** An edit that was set aside, as it is kept until somebody decides. */
export type Aside = Omit<SetAside, 'field'>;

/** What stands between a draft and the world: the server, what outlives the page, and the words for whoever edits. */
export interface Ports {
  /** Sends edits until they are answered or refused. They may arrive twice. */
  save: (request: { base: number; edits: Edit[] }) => Promise<{ data: SaveAnswer } | { error: { message: string } }>;
  /** Keeps what is not on the server yet, with the revision that it goes on top of. */
  keep: (pending: readonly Edit[], base: number, aside: readonly Aside[]) => void;
  changed: () => void;
  say: (sentence: string) => void;
  newId: () => string;
}

/** Commands of one request at most, as the server takes them. */
const MOST = 500;

/**
 * One draft as one browser tab edits it: a document that the server has confirmed, and edits that are on their way to it.
 * What others did is taken under the pending edits, and what really collides is set aside. (The shape is that of
 * prosemirror-collab: a confirmed document, its version, pending steps, and mapping.)
 */
export class DraftClient {
  readonly #ports: Ports;
  #confirmed: Sequence;
  #revision: number;
  #unpublished: boolean;
  #doc: Sequence;
  #pending: Edit[] = [];
  #aside: Aside[];
  #stacks: Stacks;
  #sending: Promise<void> | null = null;
  /** The server refused several edits at once: they are sent one by one, so that only the one at fault is set aside. */
  #singly = false;

  /** `aside` is what earlier pages set aside. */
  constructor(
    answer: Pick<SequenceAnswer, 'draft' | 'revision' | 'unpublished' | 'log'>,
    aside: readonly Aside[],
    ports: Ports,
  ) {
    this.#ports = ports;
    this.#confirmed = answer.draft;
    this.#doc = answer.draft;
    this.#revision = answer.revision;
    this.#unpublished = answer.unpublished;
    this.#stacks = stacksOf(answer.log);
    this.#aside = [...aside];
  }

  /** What a screen shows of it. */
  get view() {
    return {
      /** The draft with one's own edits in it. */
      doc: this.#doc,
      /** Revision that the server has confirmed. */
      revision: this.#revision,
      /** Edits on their way. */
      unsaved: this.#pending.length,
      unpublished: this.#unpublished,
      aside: this.#aside as readonly Aside[],
      undo: this.#stacks.undo.length,
      redo: this.#stacks.redo.length,
    };
  }

  /** Puts an edit into the draft at once and sends it. Throws CommandError where it does not fit. */
  edit(commands: Command[], role: Edit['role'] = 'edit'): void {
    this.#put({ id: this.#ports.newId(), commands, role });
  }

  #put(edit: Edit): void {
    const { doc, inverses } = applyCommands(this.#doc, edit.commands);
    this.#doc = keepSteps(this.#doc, doc);
    this.#stacks = withOwn(this.#stacks, { ...edit, inverses });
    this.#pending.push(edit);
    this.#keep();
    this.#send();
  }

  undo(): void {
    this.#back('undo');
  }
  redo(): void {
    this.#back('redo');
  }

  /** Takes back, or brings back, one's own last edit, unless others have worked there since. */
  #back(role: 'undo' | 'redo'): void {
    const item = this.#stacks[role].at(-1);
    if (!item) return;
    const edit = { id: this.#ports.newId(), commands: item.commands, role };
    const { applied, aside } = rebase([edit], item.since, this.#doc);
    if (applied[0]) return this.#put({ ...edit, commands: applied[0].commands });
    this.#stacks = { ...this.#stacks, [role]: this.#stacks[role].slice(0, -1) };
    if (aside[0]) this.#ports.say(`${aside[0].why} It stays as it is.`);
    this.#ports.changed();
  }

  /** Takes in what has been saved by others, or by oneself elsewhere. While edits are on their way their answer brings it. */
  receive(saved: readonly Saved[], unpublished: boolean | null): void {
    if (this.#sending) return;
    if (unpublished !== null) this.#unpublished = unpublished;
    this.#take(saved);
  }

  /** Takes in whether the draft of a revision is another than what is live: it may have been published since. */
  told(revision: number, unpublished: boolean): void {
    if (this.#sending || revision !== this.#revision || unpublished === this.#unpublished) return;
    this.#unpublished = unpublished;
    this.#ports.changed();
  }

  /** Resolves once nothing is on its way. */
  async settled(): Promise<void> {
    while (this.#sending) await this.#sending;
  }

  /** Takes over what pages that are gone had set aside. */
  adopt(aside: readonly Aside[]): void {
    if (aside.length === 0) return;
    this.#aside = [...this.#aside, ...aside];
    this.#keep();
  }

  /** Lets go of an edit that was set aside. */
  letGo(id: string): void {
    this.#aside = this.#aside.filter((a) => a.edit.id !== id);
    this.#keep();
  }

  #keep(): void {
    this.#ports.keep([...this.#pending], this.#revision, this.#aside);
    this.#ports.changed();
  }

  #send(): void {
    this.#sending ??= this.#sendAll().finally(() => {
      this.#sending = null;
      this.#ports.changed();
    });
  }

  async #sendAll(): Promise<void> {
    // What is edited in one go is sent in one go.
    await Promise.resolve();
    while (this.#pending.length > 0) {
      const edits = this.#next();
      const answer = await this.#ports.save({ base: this.#revision, edits });
      if ('data' in answer) {
        this.#singly = false;
        this.#unpublished = answer.data.unpublished;
        this.#answered(answer.data, edits);
      } else if (edits.length > 1) this.#singly = true;
      else this.#refused(edits[0] as Edit, answer.error.message);
    }
  }

  /** As many edits as one request takes. */
  #next(): Edit[] {
    const edits: Edit[] = [];
    for (let commands = 0; edits.length < (this.#singly ? 1 : MOST);) {
      const edit = this.#pending[edits.length];
      if (!edit || (commands += edit.commands.length) > MOST) break;
      edits.push(edit);
    }
    return edits.length > 0 ? edits : this.#pending.slice(0, 1);
  }

  #answered({ edits, aside, moot }: SaveAnswer, sent: readonly Edit[]): void {
    const collided = aside.flatMap(({ id, over, why }) => {
      const edit = sent.find((e) => e.id === id);
      return edit ? [{ edit, over, why }] : [];
    });
    this.#take(edits, collided, moot);
  }

  /** An edit that the server does not take: it is set aside, and whatever was made on top of it shows whether it holds. */
  #refused(edit: Edit, why: string): void {
    this.#take([], [{ edit, over: null, why }]);
  }

  /** Takes what the server has saved under what is pending. */
  #take(saved: readonly Saved[], collided: readonly Aside[] = [], moot: readonly string[] = []): void {
    const fresh = saved.filter((s) => s.revision > this.#revision);
    for (const { commands } of fresh) this.#confirmed = applyCommands(this.#confirmed, commands).doc;
    this.#revision = fresh.at(-1)?.revision ?? this.#revision;
    const own = new Set(this.#pending.map((e) => e.id));
    const others = fresh.filter((s) => s.id === null || !own.has(s.id));
    const done = new Set([...fresh.flatMap((s) => s.id ?? []), ...collided.map((a) => a.edit.id), ...moot]);
    const rest = rebase(
      this.#pending.filter((e) => !done.has(e.id)),
      others,
      this.#confirmed,
    );
    this.#doc = keepSteps(this.#doc, rest.doc);
    this.#pending = rest.applied.map(({ inverses: _, ...edit }) => edit);
    for (const other of others) this.#stacks = withOthers(this.#stacks, other);
    this.#setAside([...collided, ...rest.aside.map(({ edit, over, why }) => ({ edit, over, why }))]);
    this.#keep();
  }

  #setAside(some: readonly Aside[]): void {
    if (some.length === 0) return;
    // What was to be taken back or brought back stays as it is: there is nothing of it to decide.
    const [back, edits] = [some.filter((a) => a.edit.role !== 'edit'), some.filter((a) => a.edit.role === 'edit')];
    for (const { why } of back) this.#ports.say(`${why} It stays as it is.`);
    for (const { why } of edits) this.#ports.say(`${why} Your edit is set aside: see “Set aside” above.`);
    this.#aside = [...this.#aside, ...edits];
    const gone = new Set(some.map((a) => a.edit.id));
    const without = (list: Stacks['undo']) => list.filter((u) => u.edit === undefined || !gone.has(u.edit));
    this.#stacks = { undo: without(this.#stacks.undo), redo: without(this.#stacks.redo) };
  }
}

/** Whether an error says that an edit does not fit, in words for whoever made it. */
export const misfitOf = (error: unknown): string =>
  error instanceof CommandError ? error.message : 'That edit does not fit the draft any more.';
