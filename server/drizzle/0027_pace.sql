ALTER TABLE "people" ADD COLUMN "pace" integer;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "paced_at" bigint;