ALTER TABLE "sends" ADD COLUMN "returned_at" bigint;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "soft_bounces" integer DEFAULT 0 NOT NULL;