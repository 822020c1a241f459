import { eq } from 'drizzle-orm';
import type { PointRules } from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { workspaces } from './schema/index.ts';

/** What people of a workspace earn by what they do. */
export async function pointsOf(db: Executor, ws: string): Promise<PointRules> {
  const [found] = await db.select({ points: workspaces.points }).from(workspaces).where(eq(workspaces.id, ws));
  return found?.points ?? { opened: 0, clicked: 0, events: {} };
}

/** Sets it from now on: what was earned before stays as it is. */
export async function setPoints(db: Executor, ws: string, points: PointRules): Promise<void> {
  await db.update(workspaces).set({ points }).where(eq(workspaces.id, ws));
}
