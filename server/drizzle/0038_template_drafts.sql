ALTER TABLE "templates" ADD COLUMN "about" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "sequences" ADD COLUMN "template_id" uuid;--> statement-breakpoint
ALTER TABLE "sequences" ADD COLUMN "listed" boolean GENERATED ALWAYS AS (person_id is null and template_id is null) STORED NOT NULL;--> statement-breakpoint
CREATE UNIQUE INDEX "sequences_template" ON "sequences" USING btree ("workspace_id","template_id");