ALTER TABLE "sweeps" ADD COLUMN "pass_to" bigint;--> statement-breakpoint
ALTER TABLE "sweeps" ADD COLUMN "pass_after" uuid;--> statement-breakpoint
ALTER TABLE "sweeps" ADD COLUMN "pass_failed" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "sequences" ADD COLUMN "let_in_at" bigint;