CREATE TABLE "suppressed" (
	"workspace_id" uuid NOT NULL,
	"hash" text NOT NULL,
	"unsubscribed_at" bigint,
	"bounced_at" bigint,
	"complained_at" bigint,
	CONSTRAINT "suppressed_workspace_id_hash_pk" PRIMARY KEY("workspace_id","hash")
);
--> statement-breakpoint
ALTER TABLE "offer_uses" ADD COLUMN "answer" jsonb;--> statement-breakpoint
ALTER TABLE "api_keys" ADD COLUMN "origins" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "installation" ADD COLUMN "release" text;--> statement-breakpoint
ALTER TABLE "web_sessions" ADD COLUMN "id" uuid DEFAULT gen_random_uuid() NOT NULL;--> statement-breakpoint
ALTER TABLE "web_sessions" ADD COLUMN "created_at" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "web_sessions" ADD COLUMN "seen_at" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "web_sessions" ADD COLUMN "agent" text DEFAULT '' NOT NULL;