import { sql } from 'drizzle-orm';
import {
  askedBy,
  encodeProgram,
  needs,
  offersOf,
  prepare,
  recentEvent,
  ruledSplits,
  type Asked,
  type EncodedProgram,
  type Needs,
  type Program,
  type Runnable,
  type RuledSplit,
  type Sequence,
} from '@ascenso/core';
import type { Executor } from './connect.ts';
import { Kept } from './kept.ts';
import { firstRow } from './rows.ts';

/** A published version made ready to run. */
export interface LoadedVersion {
  run: Runnable;
  needs: Needs;
  programs: Record<string, string>;
  /** Offers that its emails make. */
  makes: string[];
  /** Its splits that a rule decides. */
  ruled: RuledSplit[];
}

/** Events whose latest payloads the repeats of an email go through. */
const recentIn = (program: Program): string[] => (program.repeats ?? []).flatMap((r) => recentEvent(r.list) ?? []);

/** What the conditional parts and the repeats of an email ask for. */
export function asksOf(program: Program): Asked {
  const asked = askedBy((program.chains ?? []).flat().filter((c) => c !== null));
  const offers = [...asked.offers, ...(program.offer ? [program.offer] : [])];
  return { ...asked, events: [...asked.events, ...recentIn(program)], offers };
}

export interface LoadedProgram {
  program: Program;
  encoded: EncodedProgram;
  /** What its conditional parts ask for. */
  asks: Asked;
  sender: { name: string; email: string; fields: Record<string, string> };
  /** For packing what its emails were filled with (`packed.ts`). */
  dictionary: Buffer | null;
}

// Versions and programs never change once published.
const versions = new Kept<LoadedVersion>(500);
const programs = new Kept<LoadedProgram>(2000);

/** A visit or an email points at a version that is not there. */
export class MissingVersion extends Error {}

export function loadVersion(
  db: Executor,
  workspaceId: string,
  sequenceId: string,
  number: number,
): Promise<LoadedVersion> {
  return versions.get(`${workspaceId}/${sequenceId}/${number}`, async () => {
    const row = await firstRow<{ doc: Sequence; programs: Record<string, string> }>(
      db,
      sql`select doc, programs from versions where workspace_id = ${workspaceId} and sequence_id = ${sequenceId} and number = ${number}`,
    );
    if (!row) throw new MissingVersion(`Version ${number} is missing`);
    return {
      run: prepare(row.doc),
      needs: needs(row.doc),
      programs: row.programs,
      makes: offersOf(row.doc),
      ruled: ruledSplits(row.doc),
    };
  });
}

/** The same for what only looks on: undefined where there is no such version, so that one broken row blinds no screen. */
export const lookAtVersion = (
  db: Executor,
  ws: string,
  sequence: string,
  number: number,
): Promise<LoadedVersion | undefined> =>
  loadVersion(db, ws, sequence, number).catch((error: unknown) => {
    if (error instanceof MissingVersion) return undefined;
    throw error;
  });

export function loadProgram(db: Executor, workspaceId: string, hash: string): Promise<LoadedProgram> {
  return programs.get(`${workspaceId}/${hash}`, async () => {
    const row = await firstRow<Pick<LoadedProgram, 'program' | 'sender' | 'dictionary'>>(
      db,
      sql`select program, sender, dictionary from programs where workspace_id = ${workspaceId} and hash = ${hash}`,
    );
    if (!row) throw new Error('The compiled email is missing');
    return { ...row, encoded: encodeProgram(row.program), asks: asksOf(row.program) };
  });
}
