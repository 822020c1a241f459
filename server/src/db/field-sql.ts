import { sql, type SQL } from 'drizzle-orm';
import { DATE_TEXT, NUMBER_TEXT, valuesOf, type FieldTest } from '@ascenso/core';

/** The text of a jsonb value, as core's `textOf` writes it. */
const text = (value: SQL) => sql`lower(${value} #>> '{}')`;
export const scalar = (value: SQL) => sql`jsonb_typeof(${value}) in ('string', 'number', 'boolean')`;
const empty = (value: SQL) => sql`(${value} is null or ${value} in ('null', '""', '[]'))`;
/** The value as a number in jsonb, which compares numbers as numbers; of a text, the number that it is. */
const numeric = (value: SQL) =>
  sql`case jsonb_typeof(${value}) when 'number' then ${value} when 'string' then case when ${value} #>> '{}' ~ ${NUMBER_TEXT} then to_jsonb((${value} #>> '{}')::numeric) end end`;
export const day = (value: SQL) =>
  sql`case when jsonb_typeof(${value}) = 'string' and ${value} #>> '{}' ~ ${DATE_TEXT} then left(${value} #>> '{}', 10) end`;

const NUMBER = new RegExp(NUMBER_TEXT);
const DATE = new RegExp(DATE_TEXT);

/** The SQL of core's `testField`: true or false, never null. */
export function testSql(test: FieldTest, value: SQL): SQL {
  const wanted =
    test.value === undefined ? 'undefined' : Array.isArray(test.value) ? '' : String(test.value).toLowerCase();
  /** Whether a test of a text holds for the value, or for one of its items: only a list is taken apart. */
  const some = (how: 'is' | 'contains' | 'begins with', part: string) => {
    const holds = (of: SQL) =>
      how === 'is'
        ? sql`${of} = ${part}`
        : how === 'contains'
          ? sql`strpos(${of}, ${part}) > 0`
          : sql`starts_with(${of}, ${part})`;
    return sql`case jsonb_typeof(${value}) when 'array' then item_holds(${value}, ${how}, ${part})
      when 'object' then ${holds(sql`''`)} else coalesce(${value} #>> '{}' <> '' and ${holds(text(value))}, false) end`;
  };
  switch (test.op) {
    case 'is set':
      return sql`not ${empty(value)}`;
    case 'is not set':
      return empty(value);
    case 'is':
      return some('is', wanted);
    case 'is not':
      return sql`not ${testSql({ ...test, op: 'is' }, value)}`;
    case 'is one of': {
      const each = valuesOf(test).map((v) => testSql({ ...test, op: 'is', value: v }, value));
      return each.length > 0 ? sql`(${sql.join(each, sql` or `)})` : sql`false`;
    }
    case 'is none of':
      return sql`not ${testSql({ ...test, op: 'is one of' }, value)}`;
    case 'contains':
    case 'begins with':
      return some(test.op, test.value === undefined ? '' : wanted);
    case 'over':
    case 'under': {
      const limit = typeof test.value === 'number' || NUMBER.test(String(test.value)) ? Number(test.value) : null;
      if (limit === null || typeof test.value === 'boolean' || Array.isArray(test.value)) return sql`false`;
      return sql`coalesce(${numeric(value)} ${sql.raw(test.op === 'over' ? '>' : '<')} ${String(limit)}::jsonb, false)`;
    }
    case 'before':
    case 'after': {
      const limit = typeof test.value === 'string' && DATE.test(test.value) ? test.value.slice(0, 10) : null;
      if (limit === null) return sql`false`;
      return sql`coalesce(${day(value)} collate "C" ${sql.raw(test.op === 'before' ? '<' : '>')} ${limit}, false)`;
    }
  }
}

/** The value at a dotted path of a JSON object, as jsonb. One that is named directly is reached twice as fast. */
export const valueAt = (object: SQL, field: string): SQL =>
  field.includes('.') ? sql`(${object} #> ${sql.param(field.split('.'))}::text[])` : sql`(${object} -> ${field}::text)`;
