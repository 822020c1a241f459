CREATE TABLE "segment_sizes" (
	"workspace_id" uuid NOT NULL,
	"segment_id" uuid NOT NULL,
	"day" integer NOT NULL,
	"people" integer NOT NULL,
	CONSTRAINT "segment_sizes_workspace_id_segment_id_day_pk" PRIMARY KEY("workspace_id","segment_id","day")
);
--> statement-breakpoint
ALTER TABLE "segments" ADD COLUMN "folder" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "segments" ADD COLUMN "count_at" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE INDEX "segments_count" ON "segments" USING btree ("count_at");