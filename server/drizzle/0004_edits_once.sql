ALTER TABLE "draft_log" ADD COLUMN "edit" uuid;--> statement-breakpoint
CREATE UNIQUE INDEX "draft_log_edit" ON "draft_log" USING btree ("workspace_id","sequence_id","edit");