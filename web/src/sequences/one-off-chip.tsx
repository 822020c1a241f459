import type { SequenceAnswer } from '@ascenso/contracts';
import { useAround } from '../app/around.ts';
import { useNumbersQuery } from '../numbers/endpoints.ts';
import { Chip } from '../ui/index.tsx';
import { ONE_OFF_WORDS, oneOffState } from './one-off-state.ts';

/** How far a one-off send is. */
export function OneOffChip({ about }: { about: SequenceAnswer }) {
  const { data: numbers } = useNumbersQuery({ id: about.id }, { skip: about.liveVersion === null });
  const around = useAround(['now']);
  const { words, tone } = ONE_OFF_WORDS[oneOffState({ ...about, inside: numbers?.inside ?? 0 }, around?.now ?? 0)];
  return <Chip tone={tone}>{words}</Chip>;
}
