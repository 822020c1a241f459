ALTER TABLE "versions" ADD COLUMN "made" jsonb;--> statement-breakpoint
-- Of versions of before only the signs of shared blocks are known. Style and senders are taken to be as they are now: what
-- changes from here on is told.
UPDATE versions v SET made = jsonb_build_object(
  'style', (SELECT w.style FROM workspaces w WHERE w.id = v.workspace_id),
  'shared', coalesce((SELECT jsonb_object_agg(e.key, e.value) FROM jsonb_each(v.shared) e WHERE v.doc::text LIKE '%"shared": "' || e.key || '"%'), '{}'::jsonb),
  'senders', coalesce((SELECT jsonb_object_agg(k.key, jsonb_build_object('name', s.name, 'email', s.email, 'fields', s.fields))
    FROM senders s CROSS JOIN LATERAL (VALUES (s.id::text), (CASE WHEN s.is_default THEN '' END)) AS k (key)
    WHERE s.workspace_id = v.workspace_id AND k.key IS NOT NULL AND v.doc::text LIKE '%"sender": "' || k.key || '"%'), '{}'::jsonb));--> statement-breakpoint
ALTER TABLE "versions" ALTER COLUMN "made" SET NOT NULL;
