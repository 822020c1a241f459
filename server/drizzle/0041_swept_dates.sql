CREATE TABLE "swept_dates" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"cause_id" text NOT NULL,
	"at" bigint NOT NULL,
	CONSTRAINT "swept_dates_workspace_id_sequence_id_person_id_cause_id_pk" PRIMARY KEY("workspace_id","sequence_id","person_id","cause_id")
);
--> statement-breakpoint
ALTER TABLE "sweeps" ADD COLUMN "begun_at" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
-- What the sweeps there are have looked at already is not looked at again.
UPDATE "sweeps" SET "begun_at" = "swept_to";--> statement-breakpoint
CREATE INDEX "swept_dates_at" ON "swept_dates" USING btree ("workspace_id","sequence_id","at");