ALTER TABLE "mail_service" ADD COLUMN "told_at" bigint;--> statement-breakpoint
ALTER TABLE "sender_health" ADD COLUMN "put_off_since" bigint;