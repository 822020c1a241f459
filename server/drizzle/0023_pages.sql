ALTER TABLE "workspaces" ADD COLUMN "site_hosts" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
CREATE INDEX "events_kind" ON "events" USING btree ("workspace_id","name","occurred_at");