import type { Asked } from '@ascenso/core';

/** One visit whose facts are wanted: whose it is, and what its version can ask for. */
export interface Wanted extends Partial<Asked> {
  workspace_id: string;
  visit_id: string;
  /** What the answer is found by, where it is not the visit. */
  key?: string;
  person_id: string;
}
