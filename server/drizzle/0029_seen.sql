ALTER TABLE "offer_grants" ADD COLUMN "seen_at" bigint;--> statement-breakpoint
UPDATE "offer_grants" g SET "seen_at" = s.at FROM (
	SELECT s.workspace_id, s.person_id, p.program->>'offer' AS offer, min(s.opened_at) AS at FROM sends s JOIN programs p ON p.workspace_id = s.workspace_id AND p.hash = s.program_hash
	WHERE s.visit_id IS NOT NULL AND s.opened_at IS NOT NULL AND p.program->>'offer' IS NOT NULL GROUP BY 1, 2, 3) s
WHERE g.workspace_id = s.workspace_id AND g.person_id = s.person_id AND g.offer_id::text = s.offer;
