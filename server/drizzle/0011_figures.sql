-- The words of an offer are made from its figure: what stood around the figure stays around it (core/src/offer/older.ts).
WITH old AS (
  SELECT o.workspace_id, o.id, w.currency, o.doc->'discount'->>'kind' AS kind, o.doc->'discount' AS discount,
    btrim(regexp_replace(o.doc->>'words', '\{\{|\}\}', '', 'g')) AS words,
    CASE WHEN o.doc->'discount'->>'value' LIKE '%.%' THEN replace(o.doc->'discount'->>'value', '.', '[.,]') || '0*' ELSE (o.doc->'discount'->>'value') || '(?:[.,]0+)?' END AS value
  FROM offers o JOIN workspaces w ON w.id = o.workspace_id WHERE o.doc ? 'words'
), found AS (
  SELECT *, regexp_match(words, '^(?:(.*?)\s+)?(?:' || CASE kind WHEN 'percent' THEN value || '\s?%' ELSE '[€$£]\s?' || value || '|' || value || '\s?[€$£]' END || ') off\M\s*(.*)$', 'i') AS parts
  FROM old
)
UPDATE offers o SET doc = (o.doc - 'words') || CASE
    WHEN f.kind = 'other' THEN jsonb_build_object('discount', jsonb_build_object('kind', 'other', 'words', f.words), 'around', '{"before":"","after":""}'::jsonb)
    ELSE jsonb_build_object(
      'discount', f.discount || CASE f.kind WHEN 'amount' THEN jsonb_build_object('currency', f.currency) ELSE '{}'::jsonb END,
      'around', CASE WHEN f.parts IS NULL THEN jsonb_build_object('before', '', 'after', '(' || f.words || ')')
        ELSE jsonb_build_object('before', coalesce(f.parts[1], ''), 'after', coalesce(f.parts[2], '')) END)
  END
FROM found f WHERE o.workspace_id = f.workspace_id AND o.id = f.id;--> statement-breakpoint
ALTER TABLE "offer_grants" ADD COLUMN "discount" jsonb;--> statement-breakpoint
UPDATE offer_grants g SET discount = o.doc->'discount' FROM offers o WHERE o.workspace_id = g.workspace_id AND o.id = g.offer_id;--> statement-breakpoint
DELETE FROM offer_grants WHERE discount IS NULL;--> statement-breakpoint
ALTER TABLE "offer_grants" ALTER COLUMN "discount" SET NOT NULL;
