import { emailCheck, type EmailFinding } from './check.ts';

/** Many mail servers refuse a message of more than 10 MB; in mail a file grows by a third (common practice, no published source). */
const MOST = 7_000_000;
/** More than this takes its time on a phone, and makes filters look twice (common practice, no published source). */
const MUCH = 1_000_000;

const MB = (bytes: number) => `${(bytes / 1_000_000).toFixed(1)} MB`;

export const heavyAttachments = emailCheck('heavy-attachments', 'warning', ({ id, email, name }, { files }) => {
  const ids = email.attachments ?? [];
  const known = ids.flatMap((a) => files.find((f) => f.id === a) ?? []);
  const total = known.reduce((sum, f) => sum + f.size, 0);
  const missing: EmailFinding[] =
    known.length < ids.length
      ? [
          {
            part: 'attachments',
            level: 'error',
            message: `A file that goes along with “${name}” is no longer in the library.`,
            fix: 'Choose another one, or take it out.',
            repair: {
              label: 'Take it out',
              commands: [
                {
                  type: 'email.set',
                  step: id,
                  field: 'attachments',
                  value: known.length > 0 ? known.map((f) => f.id) : null,
                },
              ],
            },
          },
        ]
      : [];
  const heavy: EmailFinding[] =
    total > MUCH
      ? [
          {
            part: 'attachments',
            level: total > MOST ? 'error' : 'warning',
            message:
              total > MOST
                ? `${MB(total)} go along with “${name}”: many mail servers refuse so much.`
                : `${MB(total)} go along with every copy of “${name}”: that is slow on a phone, and filters look twice.`,
            fix: 'Link to the file instead: then you also see who fetched it.',
          },
        ]
      : [];
  return [...missing, ...heavy];
});
