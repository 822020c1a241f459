import type { Block } from '@ascenso/core';
import { useAct } from '../app/store.ts';
import { setBlock } from './actions.ts';
import { blockOf, useComposer } from './context.ts';

/** Sets fields of a block of the email that is open; what is still on its way when one leaves gets there all the same. */
export function useSet(block: Pick<Block, 'id'>) {
  const composer = useComposer();
  const dispatch = useAct();
  return (field: string, value: unknown) => dispatch(setBlock(blockOf(composer, block.id), field, value));
}
