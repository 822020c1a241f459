CREATE UNLOGGED TABLE "presence" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"tab" uuid NOT NULL,
	"user_id" uuid NOT NULL,
	"step" text,
	"seen_at" timestamp with time zone NOT NULL,
	CONSTRAINT "presence_workspace_id_sequence_id_tab_pk" PRIMARY KEY("workspace_id","sequence_id","tab")
);
