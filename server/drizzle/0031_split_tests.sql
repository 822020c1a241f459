CREATE TABLE "split_tests" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"step" text NOT NULL,
	"key" text NOT NULL,
	"rule" jsonb NOT NULL,
	"first_at" bigint,
	"next_at" bigint,
	"arm" text,
	"decided_at" bigint,
	"settled" boolean DEFAULT false NOT NULL,
	CONSTRAINT "split_tests_workspace_id_sequence_id_step_pk" PRIMARY KEY("workspace_id","sequence_id","step")
);
--> statement-breakpoint
CREATE INDEX "split_tests_due" ON "split_tests" USING btree ("next_at") WHERE arm is null;