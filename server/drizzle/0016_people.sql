CREATE TABLE "consent_sources" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"how" text NOT NULL,
	"label" text NOT NULL,
	"words" text NOT NULL,
	CONSTRAINT "consent_sources_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE TABLE "consents" (
	"workspace_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"list_id" uuid,
	"what" text NOT NULL,
	"at" bigint NOT NULL,
	"source_id" uuid NOT NULL,
	"where" text,
	CONSTRAINT "consents_workspace_id_person_id_id_pk" PRIMARY KEY("workspace_id","person_id","id")
);
--> statement-breakpoint
CREATE TABLE "import_pieces" (
	"workspace_id" uuid NOT NULL,
	"import_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"bytes" "bytea" NOT NULL,
	CONSTRAINT "import_pieces_workspace_id_import_id_n_pk" PRIMARY KEY("workspace_id","import_id","n")
);
--> statement-breakpoint
CREATE TABLE "import_rows" (
	"workspace_id" uuid NOT NULL,
	"import_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"line" integer NOT NULL,
	"email" text,
	"attributes" jsonb,
	"zone" text,
	"tags" text[],
	"lists" uuid[],
	"consent_at" bigint,
	"fault" text,
	"person_id" uuid,
	"before" jsonb,
	CONSTRAINT "import_rows_workspace_id_import_id_n_pk" PRIMARY KEY("workspace_id","import_id","n")
);
--> statement-breakpoint
CREATE TABLE "imports" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"state" text NOT NULL,
	"file" jsonb,
	"plan" jsonb,
	"counts" jsonb,
	"done" integer DEFAULT 0 NOT NULL,
	"total" integer DEFAULT 0 NOT NULL,
	"problem" text,
	"by" text NOT NULL,
	"created_at" bigint NOT NULL,
	"ended_at" bigint,
	"lease_until" bigint,
	CONSTRAINT "imports_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
ALTER TABLE "lists" ADD COLUMN "public_name" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "lists" ADD COLUMN "told" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "suppressed" ADD COLUMN "email" text;--> statement-breakpoint
CREATE INDEX "imports_working" ON "imports" USING btree ("lease_until") WHERE state in ('checking', 'running', 'undoing');