CREATE TABLE "bin" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"kind" text NOT NULL,
	"row" jsonb NOT NULL,
	"binned_at" timestamp with time zone NOT NULL,
	CONSTRAINT "bin_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
