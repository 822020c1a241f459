ALTER TABLE "sends" ADD COLUMN "complained_at" bigint;--> statement-breakpoint
ALTER TABLE "sequences" ADD COLUMN "halted" jsonb;--> statement-breakpoint
ALTER TABLE "sequences" ADD COLUMN "halt_from" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE INDEX "sends_day" ON "sends" USING btree ("workspace_id","sequence_id","due_at");--> statement-breakpoint
CREATE INDEX "people_stopped" ON "people" USING btree ("workspace_id","email") WHERE mail_status <> 'ok';