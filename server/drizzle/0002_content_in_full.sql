CREATE TABLE "approvals" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"step" text NOT NULL,
	"status" text NOT NULL,
	"sign" text NOT NULL,
	"user_id" uuid NOT NULL,
	"at" bigint NOT NULL,
	CONSTRAINT "approvals_workspace_id_sequence_id_step_pk" PRIMARY KEY("workspace_id","sequence_id","step")
);
--> statement-breakpoint
CREATE TABLE "comments" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"step" text NOT NULL,
	"block" text,
	"user_id" uuid NOT NULL,
	"text" text NOT NULL,
	"at" bigint NOT NULL,
	"resolved_at" bigint,
	CONSTRAINT "comments_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE TABLE "marks" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"revision" integer NOT NULL,
	"name" text NOT NULL,
	"user_id" uuid NOT NULL,
	"at" bigint NOT NULL,
	CONSTRAINT "marks_workspace_id_sequence_id_revision_pk" PRIMARY KEY("workspace_id","sequence_id","revision")
);
--> statement-breakpoint
CREATE TABLE "shared_blocks" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"blocks" jsonb NOT NULL,
	"updated_at" bigint NOT NULL,
	CONSTRAINT "shared_blocks_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE TABLE "templates" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"email" jsonb NOT NULL,
	"owner_id" uuid,
	"updated_at" bigint NOT NULL,
	CONSTRAINT "templates_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE TABLE "tests" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"step" text NOT NULL,
	"sign" text NOT NULL,
	"at" bigint NOT NULL,
	CONSTRAINT "tests_workspace_id_sequence_id_step_pk" PRIMARY KEY("workspace_id","sequence_id","step")
);
--> statement-breakpoint
ALTER TABLE "readings" ALTER COLUMN "link" SET DATA TYPE text;--> statement-breakpoint
ALTER TABLE "event_kinds" ADD COLUMN "mapping" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "folder" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "alt" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "keywords" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "shared" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "workspaces" ADD COLUMN "words" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
CREATE INDEX "comments_email" ON "comments" USING btree ("workspace_id","sequence_id","step");