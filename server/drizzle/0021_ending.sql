ALTER TABLE "visits" ADD COLUMN "ending" text;--> statement-breakpoint
UPDATE "visits" v SET "ending" = CASE
	WHEN EXISTS (SELECT 1 FROM "traces" t WHERE t."workspace_id" = v."workspace_id" AND t."person_id" = v."person_id" AND t."visit_id" = v."id" AND t."reasons" @> '[{"code":"goal-reached"}]') THEN 'goal'
	WHEN EXISTS (SELECT 1 FROM "traces" t WHERE t."workspace_id" = v."workspace_id" AND t."person_id" = v."person_id" AND t."visit_id" = v."id" AND t."reasons" @> '[{"code":"reached-end"}]') THEN 'end'
	ELSE 'left' END
WHERE v."status" = 'done';
