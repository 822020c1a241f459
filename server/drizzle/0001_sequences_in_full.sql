CREATE TABLE "mail_days" (
	"workspace_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"day" integer NOT NULL,
	"given" integer NOT NULL,
	CONSTRAINT "mail_days_workspace_id_person_id_day_pk" PRIMARY KEY("workspace_id","person_id","day")
);
--> statement-breakpoint
CREATE TABLE "notices" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"visit_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"version" integer NOT NULL,
	"step" text NOT NULL,
	"person_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"to" text NOT NULL,
	"text" text NOT NULL,
	"status" text NOT NULL,
	"due_at" bigint NOT NULL,
	"next_at" bigint NOT NULL,
	"lease_until" bigint,
	"attempts" integer DEFAULT 0 NOT NULL,
	"answer" text,
	CONSTRAINT "notices_workspace_id_id_pk" PRIMARY KEY("workspace_id","id"),
	CONSTRAINT "notices_once" UNIQUE("workspace_id","visit_id","step")
);
--> statement-breakpoint
CREATE TABLE "segments" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"rule" jsonb NOT NULL,
	"created_at" bigint NOT NULL,
	CONSTRAINT "segments_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE TABLE "sweep_members" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"segment_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	CONSTRAINT "sweep_members_workspace_id_sequence_id_segment_id_person_id_pk" PRIMARY KEY("workspace_id","sequence_id","segment_id","person_id")
);
--> statement-breakpoint
CREATE TABLE "sweeps" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"key" text NOT NULL,
	"trigger" jsonb NOT NULL,
	"swept_to" bigint NOT NULL,
	"next_at" bigint NOT NULL,
	CONSTRAINT "sweeps_workspace_id_sequence_id_key_pk" PRIMARY KEY("workspace_id","sequence_id","key")
);
--> statement-breakpoint
DROP INDEX "sends_visit";--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "points" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "sends" ADD COLUMN "own_change" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "sequences" ADD COLUMN "triggers" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "sequences" ADD COLUMN "priority" integer DEFAULT 3 NOT NULL;--> statement-breakpoint
ALTER TABLE "sequences" ADD COLUMN "paused_at" bigint;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "too_late" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "held_out" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "entry_key" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "entry_event" text;--> statement-breakpoint
ALTER TABLE "workspaces" ADD COLUMN "daily_cap" integer;--> statement-breakpoint
CREATE INDEX "notices_due" ON "notices" USING btree ("next_at") WHERE status = 'queued';--> statement-breakpoint
CREATE INDEX "sweeps_due" ON "sweeps" USING btree ("next_at");--> statement-breakpoint
CREATE UNIQUE INDEX "visits_active" ON "visits" USING btree ("workspace_id","sequence_id","person_id","entry_key") WHERE status = 'active';
--> statement-breakpoint
-- A sequence had one trigger and one word for re-entry; both became more.
CREATE FUNCTION pg_temp.trigger_in_full(t jsonb) RETURNS jsonb LANGUAGE sql AS $$
  SELECT CASE WHEN t->>'kind' = 'list' THEN t || '{"what": "joined"}' ELSE t END
$$;
--> statement-breakpoint
CREATE FUNCTION pg_temp.entry_in_full(again jsonb) RETURNS jsonb LANGUAGE sql AS $$
  SELECT jsonb_build_object('again', again, 'days', 30, 'key', '', 'holdout', 0)
$$;
--> statement-breakpoint
CREATE FUNCTION pg_temp.sequence_in_full(doc jsonb) RETURNS jsonb LANGUAGE sql AS $$
  SELECT doc - 'trigger' - 'reentry' || jsonb_build_object(
    'triggers', jsonb_build_array(pg_temp.trigger_in_full(doc->'trigger')), 'entry', pg_temp.entry_in_full(doc->'reentry'),
    'filter', doc->'filter', 'cap', '{"exempt": false, "priority": 3, "yields": "later"}'::jsonb)
$$;
--> statement-breakpoint
CREATE FUNCTION pg_temp.command_in_full(c jsonb) RETURNS jsonb LANGUAGE sql AS $$
  SELECT CASE
    WHEN c->>'type' = 'set' AND c->>'field' = 'trigger'
      THEN c || jsonb_build_object('field', 'triggers', 'value', jsonb_build_array(pg_temp.trigger_in_full(c->'value')))
    WHEN c->>'type' = 'set' AND c->>'field' = 'reentry'
      THEN c || jsonb_build_object('field', 'entry', 'value', pg_temp.entry_in_full(c->'value'))
    ELSE c END
$$;
--> statement-breakpoint
UPDATE sequences SET draft = pg_temp.sequence_in_full(draft) WHERE draft ? 'trigger';
--> statement-breakpoint
UPDATE versions SET doc = pg_temp.sequence_in_full(doc) WHERE doc ? 'trigger';
--> statement-breakpoint
UPDATE draft_log SET
  commands = (SELECT coalesce(jsonb_agg(pg_temp.command_in_full(c)), '[]') FROM jsonb_array_elements(commands) c),
  inverses = (SELECT coalesce(jsonb_agg(pg_temp.command_in_full(c)), '[]') FROM jsonb_array_elements(inverses) c);
--> statement-breakpoint
UPDATE sequences s SET triggers = v.doc->'triggers', priority = (v.doc->'cap'->>'priority')::int
FROM versions v WHERE v.workspace_id = s.workspace_id AND v.sequence_id = s.id AND v.number = s.live_version;
