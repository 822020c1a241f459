CREATE TABLE "api_keys" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"hint" text NOT NULL,
	"hash" text NOT NULL,
	"created_at" bigint NOT NULL,
	CONSTRAINT "api_keys_workspace_id_id_pk" PRIMARY KEY("workspace_id","id"),
	CONSTRAINT "api_keys_hash_unique" UNIQUE("hash")
);
--> statement-breakpoint
CREATE TABLE "attributes" (
	"workspace_id" uuid NOT NULL,
	"key" text NOT NULL,
	"label" text NOT NULL,
	"type" text NOT NULL,
	"position" integer NOT NULL,
	CONSTRAINT "attributes_workspace_id_key_pk" PRIMARY KEY("workspace_id","key")
);
--> statement-breakpoint
CREATE TABLE "draft_log" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"revision" integer NOT NULL,
	"user_id" uuid NOT NULL,
	"at" bigint NOT NULL,
	"role" text NOT NULL,
	"commands" jsonb NOT NULL,
	"inverses" jsonb NOT NULL,
	CONSTRAINT "draft_log_workspace_id_sequence_id_revision_pk" PRIMARY KEY("workspace_id","sequence_id","revision")
);
--> statement-breakpoint
CREATE TABLE "event_ids" (
	"workspace_id" uuid NOT NULL,
	"source" text NOT NULL,
	"id" text NOT NULL,
	"body_hash" text NOT NULL,
	CONSTRAINT "event_ids_workspace_id_source_id_pk" PRIMARY KEY("workspace_id","source","id")
);
--> statement-breakpoint
CREATE TABLE "event_kinds" (
	"workspace_id" uuid NOT NULL,
	"name" text NOT NULL,
	"label" text NOT NULL,
	"fields" jsonb NOT NULL,
	"sample" jsonb NOT NULL,
	"learned" boolean NOT NULL,
	CONSTRAINT "event_kinds_workspace_id_name_pk" PRIMARY KEY("workspace_id","name")
);
--> statement-breakpoint
CREATE TABLE "events" (
	"workspace_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"occurred_at" bigint NOT NULL,
	"payload" jsonb NOT NULL,
	CONSTRAINT "events_workspace_id_person_id_occurred_at_id_pk" PRIMARY KEY("workspace_id","person_id","occurred_at","id")
) PARTITION BY RANGE ("occurred_at");
--> statement-breakpoint
CREATE TABLE "events_rest" PARTITION OF "events" DEFAULT;
--> statement-breakpoint
CREATE TABLE "files" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"mime" text NOT NULL,
	"size" integer NOT NULL,
	"sha256" text NOT NULL,
	"width" integer,
	"height" integer,
	"content" "bytea" NOT NULL,
	"created_at" bigint NOT NULL,
	CONSTRAINT "files_workspace_id_id_pk" PRIMARY KEY("workspace_id","id"),
	CONSTRAINT "files_id" UNIQUE("id"),
	CONSTRAINT "files_content" UNIQUE("workspace_id","sha256","name")
);
--> statement-breakpoint
CREATE TABLE "installation" (
	"id" integer PRIMARY KEY NOT NULL,
	"practice" boolean NOT NULL,
	"offset_ms" bigint NOT NULL,
	"standing_at" bigint,
	"secret" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "lists" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	CONSTRAINT "lists_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE TABLE "members" (
	"workspace_id" uuid NOT NULL,
	"user_id" uuid NOT NULL,
	"role" text NOT NULL,
	CONSTRAINT "members_workspace_id_user_id_pk" PRIMARY KEY("workspace_id","user_id")
);
--> statement-breakpoint
CREATE TABLE "memberships" (
	"workspace_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"list_id" uuid NOT NULL,
	"state" text NOT NULL,
	"at" bigint NOT NULL,
	CONSTRAINT "memberships_workspace_id_person_id_list_id_pk" PRIMARY KEY("workspace_id","person_id","list_id")
);
--> statement-breakpoint
CREATE TABLE "people" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"email" text NOT NULL,
	"attributes" jsonb NOT NULL,
	"tags" text[] DEFAULT '{}' NOT NULL,
	"zone" text,
	"mail_status" text DEFAULT 'ok' NOT NULL,
	"created_at" bigint NOT NULL,
	CONSTRAINT "people_workspace_id_id_pk" PRIMARY KEY("workspace_id","id"),
	CONSTRAINT "people_email" UNIQUE("workspace_id","email")
);
--> statement-breakpoint
CREATE TABLE "programs" (
	"workspace_id" uuid NOT NULL,
	"hash" text NOT NULL,
	"program" jsonb NOT NULL,
	"sender" jsonb NOT NULL,
	CONSTRAINT "programs_workspace_id_hash_pk" PRIMARY KEY("workspace_id","hash")
);
--> statement-breakpoint
CREATE TABLE "readings" (
	"workspace_id" uuid NOT NULL,
	"send_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"kind" text NOT NULL,
	"link" integer,
	"at" bigint NOT NULL,
	"prefetched" boolean NOT NULL,
	CONSTRAINT "readings_workspace_id_send_id_id_pk" PRIMARY KEY("workspace_id","send_id","id")
);
--> statement-breakpoint
CREATE TABLE "senders" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"email" text NOT NULL,
	"is_default" boolean NOT NULL,
	"untouched" boolean NOT NULL,
	"fields" jsonb NOT NULL,
	CONSTRAINT "senders_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE TABLE "sends" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"visit_id" uuid,
	"sequence_id" uuid NOT NULL,
	"version" integer NOT NULL,
	"step" text NOT NULL,
	"person_id" uuid NOT NULL,
	"program_hash" text NOT NULL,
	"status" text NOT NULL,
	"due_at" bigint NOT NULL,
	"next_at" bigint NOT NULL,
	"attempts" integer DEFAULT 0 NOT NULL,
	"lease_until" bigint,
	"to" text,
	"values" jsonb,
	"sent_at" bigint,
	"answer" text,
	"opened_at" bigint,
	"clicked_at" bigint,
	"left_at" bigint,
	CONSTRAINT "sends_workspace_id_id_pk" PRIMARY KEY("workspace_id","id"),
	CONSTRAINT "sends_once" UNIQUE("workspace_id","visit_id","step")
);
--> statement-breakpoint
CREATE TABLE "sequences" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"status" text NOT NULL,
	"live_version" integer,
	"created_at" bigint NOT NULL,
	"revision" integer NOT NULL,
	"published_revision" integer,
	"draft" jsonb NOT NULL,
	CONSTRAINT "sequences_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE TABLE "traces" (
	"workspace_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"visit_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"version" integer NOT NULL,
	"at" bigint NOT NULL,
	"step" text,
	"code" text NOT NULL,
	"data" jsonb NOT NULL,
	CONSTRAINT "traces_workspace_id_person_id_at_id_pk" PRIMARY KEY("workspace_id","person_id","at","id")
);
--> statement-breakpoint
CREATE TABLE "users" (
	"id" uuid PRIMARY KEY NOT NULL,
	"email" text NOT NULL,
	"name" text NOT NULL,
	"password_hash" text NOT NULL,
	CONSTRAINT "users_email_unique" UNIQUE("email")
);
--> statement-breakpoint
CREATE TABLE "versions" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"number" integer NOT NULL,
	"doc" jsonb NOT NULL,
	"programs" jsonb NOT NULL,
	"published_at" bigint NOT NULL,
	"published_by" uuid,
	CONSTRAINT "versions_workspace_id_sequence_id_number_pk" PRIMARY KEY("workspace_id","sequence_id","number")
);
--> statement-breakpoint
CREATE TABLE "visits" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"version" integer NOT NULL,
	"person_id" uuid NOT NULL,
	"cause_id" text NOT NULL,
	"status" text NOT NULL,
	"step" text,
	"entered_at" bigint NOT NULL,
	"arrived_at" bigint NOT NULL,
	"due_at" bigint NOT NULL,
	"next_due_at" bigint NOT NULL,
	"held" boolean NOT NULL,
	"step_times" jsonb NOT NULL,
	"entry" jsonb NOT NULL,
	CONSTRAINT "visits_workspace_id_id_pk" PRIMARY KEY("workspace_id","id"),
	CONSTRAINT "visits_cause" UNIQUE("workspace_id","sequence_id","person_id","cause_id")
);
--> statement-breakpoint
CREATE TABLE "web_sessions" (
	"token_hash" text PRIMARY KEY NOT NULL,
	"user_id" uuid NOT NULL,
	"workspace_id" uuid NOT NULL,
	"expires_at" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "workspaces" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"zone" text NOT NULL,
	"currency" text NOT NULL,
	"style" jsonb NOT NULL
);
--> statement-breakpoint
CREATE INDEX "events_name" ON "events" USING btree ("workspace_id","person_id","name","occurred_at");--> statement-breakpoint
CREATE INDEX "memberships_list" ON "memberships" USING btree ("workspace_id","list_id","state");--> statement-breakpoint
CREATE INDEX "people_created" ON "people" USING btree ("workspace_id","created_at");--> statement-breakpoint
CREATE INDEX "sends_due" ON "sends" USING btree ("next_at","id") WHERE status in ('queued', 'leased');--> statement-breakpoint
CREATE INDEX "sends_numbers" ON "sends" USING btree ("workspace_id","sequence_id","step");--> statement-breakpoint
CREATE INDEX "sends_person" ON "sends" USING btree ("workspace_id","person_id");--> statement-breakpoint
CREATE INDEX "sends_visit" ON "sends" USING btree ("workspace_id","visit_id");--> statement-breakpoint
CREATE INDEX "visits_person" ON "visits" USING btree ("workspace_id","person_id");--> statement-breakpoint
CREATE INDEX "visits_here" ON "visits" USING btree ("workspace_id","sequence_id","step") WHERE status = 'active';--> statement-breakpoint
CREATE INDEX "visits_due" ON "visits" USING btree ("next_due_at","id") WHERE status = 'active';--> statement-breakpoint
ALTER TABLE "visits" SET (autovacuum_vacuum_scale_factor = 0.02, fillfactor = 80);
--> statement-breakpoint
ALTER TABLE "sends" SET (autovacuum_vacuum_scale_factor = 0.02, fillfactor = 80);
