CREATE TABLE "asks" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"form_id" uuid NOT NULL,
	"version" integer NOT NULL,
	"person_id" uuid NOT NULL,
	"answers" jsonb NOT NULL,
	"consent" text NOT NULL,
	"made" boolean NOT NULL,
	"where" text,
	"asked_at" bigint NOT NULL,
	"confirmed_at" bigint,
	CONSTRAINT "asks_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE TABLE "forms" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"doc" jsonb NOT NULL,
	"version" integer NOT NULL,
	"status" text NOT NULL,
	"sequence_id" uuid NOT NULL,
	"created_at" bigint NOT NULL,
	CONSTRAINT "forms_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE INDEX "asks_person" ON "asks" USING btree ("workspace_id","person_id","asked_at");--> statement-breakpoint
CREATE INDEX "asks_waiting" ON "asks" USING btree ("asked_at") WHERE confirmed_at is null;--> statement-breakpoint
CREATE INDEX "asks_form" ON "asks" USING btree ("workspace_id","form_id","asked_at");