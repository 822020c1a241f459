-- Whether an item of a JSON list is a text, says one, or begins with one, in lower case. As a function and not as a subquery
-- in its place: PostgreSQL counts with several processes only what asks nothing of its own beside the row.
CREATE FUNCTION "item_holds"("list" jsonb, "how" text, "wanted" text) RETURNS boolean LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
  select exists (
    select 1 from jsonb_array_elements(list) i(v),
      lateral (select case when jsonb_typeof(i.v) in ('string', 'number', 'boolean') then lower(i.v #>> '{}') else '' end as item) t
    where case how when 'is' then item = wanted when 'contains' then strpos(item, wanted) > 0 else starts_with(item, wanted) end)
$$;
