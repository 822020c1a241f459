import { sql, type SQL } from 'drizzle-orm';
import { validate } from 'uuid';

/**
 * That a row of `people`, by its name in the statement, is on a list and has confirmed it; `also` is one more condition on its
 * membership `m`. A list is compared as an id, not as text: only so the database knows how many are on it. What is no id is
 * no list.
 */
export const onList = (people: 'p' | 'people', list: string, also: SQL = sql``): SQL => {
  const p = sql.raw(people);
  return validate(list)
    ? sql`exists (select 1 from memberships m where m.workspace_id = ${p}.workspace_id and m.person_id = ${p}.id and m.list_id = ${list}::uuid and m.state = 'confirmed' ${also})`
    : sql`false::boolean`;
};
