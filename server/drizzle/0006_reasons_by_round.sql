ALTER TABLE "traces" ADD COLUMN "reasons" jsonb;--> statement-breakpoint
UPDATE "traces" SET "reasons" = jsonb_build_array(jsonb_build_object('at', "at", 'step', "step", 'code', "code", 'data', "data"));--> statement-breakpoint
ALTER TABLE "traces" ALTER COLUMN "reasons" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "traces" DROP COLUMN "step";--> statement-breakpoint
ALTER TABLE "traces" DROP COLUMN "code";--> statement-breakpoint
ALTER TABLE "traces" DROP COLUMN "data";--> statement-breakpoint
CREATE VIEW "reasons" AS
SELECT t."workspace_id", t."person_id", t."id", x."n", t."visit_id", t."sequence_id", t."version",
	(x."r"->>'at')::bigint AS "at", x."r"->>'step' AS "step", x."r"->>'code' AS "code", x."r"->'data' AS "data"
FROM "traces" t CROSS JOIN LATERAL jsonb_array_elements(t."reasons") WITH ORDINALITY AS x("r", "n");