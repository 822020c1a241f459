import { z } from 'zod';
import { blockSchema } from './blocks/index.ts';

/** The content of one email. Subject and preview text are templates. */
export const emailSchema = z
  .object({
    /** Id of a sender, or '' for the workspace's default. */
    sender: z.string(),
    subject: z.string().max(500),
    preview: z.string().max(500),
    blocks: z.array(blockSchema).max(200),
  })
  .meta({ id: 'Email' });
export type Email = z.infer<typeof emailSchema>;
