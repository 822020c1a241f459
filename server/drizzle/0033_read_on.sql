ALTER TABLE "readings" ADD COLUMN "device" text;--> statement-breakpoint
ALTER TABLE "readings" ADD COLUMN "program" text;