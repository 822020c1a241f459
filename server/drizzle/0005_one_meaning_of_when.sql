CREATE TABLE "sender_health" (
	"workspace_id" uuid NOT NULL,
	"email" text NOT NULL,
	"refusals" integer NOT NULL,
	"halted_at" bigint,
	"answer" text NOT NULL,
	CONSTRAINT "sender_health_workspace_id_email_pk" PRIMARY KEY("workspace_id","email")
);
--> statement-breakpoint
CREATE TABLE "set_aside" (
	"workspace_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"item" text NOT NULL,
	"sequence_id" uuid,
	"person_id" uuid,
	"reason" text NOT NULL,
	"failures" integer NOT NULL,
	"since" bigint NOT NULL,
	"next_at" bigint NOT NULL,
	CONSTRAINT "set_aside_workspace_id_kind_item_pk" PRIMARY KEY("workspace_id","kind","item")
);
--> statement-breakpoint
DROP INDEX "sends_due";--> statement-breakpoint
DROP INDEX "visits_due";--> statement-breakpoint
ALTER TABLE "memberships" ADD COLUMN "by_visit" uuid;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "unsubscribed_at" bigint;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "bounced_at" bigint;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "complained_at" bigint;--> statement-breakpoint
-- When it happened is kept of unsubscribing alone; of the others the beginning of the record is the best that is known.
UPDATE "people" p SET
	"unsubscribed_at" = CASE WHEN "mail_status" = 'unsubscribed' THEN coalesce((SELECT max(e."occurred_at") FROM "events" e WHERE e."workspace_id" = p."workspace_id" AND e."person_id" = p."id" AND e."name" = 'unsubscribed'), "created_at") END,
	"bounced_at" = CASE WHEN "mail_status" = 'bounced' THEN "created_at" END,
	"complained_at" = CASE WHEN "mail_status" = 'complained' THEN "created_at" END
WHERE "mail_status" <> 'ok';--> statement-breakpoint
ALTER TABLE "people" DROP COLUMN "mail_status";--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "mail_status" text GENERATED ALWAYS AS (case when bounced_at is not null then 'bounced' when complained_at is not null then 'complained' when unsubscribed_at is not null then 'unsubscribed' else 'ok' end) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "readings" ADD COLUMN "link_number" integer;--> statement-breakpoint
ALTER TABLE "readings" ADD COLUMN "link_repeat" integer;--> statement-breakpoint
ALTER TABLE "readings" ADD COLUMN "link_item" integer;--> statement-breakpoint
-- References that are none were taken before they were read strictly: they stay as clicks on no link that is known.
UPDATE "readings" SET "link_number" = "link"::int WHERE "link" ~ '^[0-9]{1,6}$';--> statement-breakpoint
UPDATE "readings" SET "link_repeat" = split_part("link", '.', 1)::int, "link_item" = split_part("link", '.', 2)::int, "link_number" = split_part("link", '.', 3)::int WHERE "link" ~ '^[0-9]{1,6}[.][0-9]{1,6}[.][0-9]{1,6}$';--> statement-breakpoint
ALTER TABLE "readings" DROP COLUMN "link";--> statement-breakpoint
ALTER TABLE "sends" ADD COLUMN "revoked" text;--> statement-breakpoint
ALTER TABLE "sends" ADD COLUMN "cap_day" integer;--> statement-breakpoint
ALTER TABLE "visits" RENAME COLUMN "next_due_at" TO "wake_at";--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "entry_at" bigint;--> statement-breakpoint
UPDATE "visits" SET "entry_at" = "entered_at";--> statement-breakpoint
ALTER TABLE "visits" ALTER COLUMN "entry_at" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "ended_at" bigint;--> statement-breakpoint
CREATE INDEX "sends_due" ON "sends" USING btree ("workspace_id","next_at","id") WHERE status in ('queued', 'leased');--> statement-breakpoint
CREATE INDEX "visits_due" ON "visits" USING btree ("workspace_id","wake_at","id") WHERE status = 'active';