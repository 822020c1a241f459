import type { ForecastAnswer } from '@ascenso/contracts';
import { dayNumber, zoneOf } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import type { Call } from '../app/routes.ts';
import { forecast } from '../jobs/forecast.ts';

/** What goes out in the days ahead, as of now or a moment ago. */
export async function keptForecast(
  ctx: AppContext,
  { ws, me, reads, kept }: Pick<Call<undefined>, 'ws' | 'me' | 'reads' | 'kept'>,
): Promise<ForecastAnswer> {
  const now = await businessNow(ctx.connection.db);
  const { zone } = me.workspace;
  return kept(`forecast ${dayNumber(zoneOf(zone), now)} ${zone}`, async () =>
    forecast((await reads()).db, ws, zone, now),
  );
}
