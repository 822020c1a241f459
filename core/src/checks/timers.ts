import { walkBlocks } from '../email/index.ts';
import { instantOfWall } from '../offer/index.ts';
import { beginning, reaches } from '../sequence/index.ts';
import { momentWords, placeWords, zoneOf } from '../time/index.ts';
import { emailCheck, type EmailFinding } from './check.ts';

/** A timer to a fixed moment that has passed before its email can go out to anybody who starts now. */
export const timerPassed = emailCheck('timer-passed', 'error', ({ id, email, name }, { now }, sequence) => {
  const reach = reaches(sequence).get(id);
  if (now === undefined || !reach) return [];
  return walkBlocks(email.blocks).flatMap(({ block }): EmailFinding[] => {
    if (block.off || block.kind !== 'timer' || block.to.kind !== 'date') return [];
    const { wall, zone } = block.to;
    const ends = instantOfWall(wall, zoneOf(zone));
    if (ends > beginning(sequence, now).first + reach.from) return [];
    return [
      {
        block: block.id,
        part: 'counts to',
        message: `The timer counts to ${momentWords(zoneOf(zone), ends)} in ${placeWords(zone)}: that has passed when “${name}” goes out.`,
        fix: 'Choose a later moment, or let it count to the offer, which is reckoned for each person.',
      },
    ];
  });
});
