CREATE TABLE "left_lists" (
	"workspace_id" uuid NOT NULL,
	"hash" text NOT NULL,
	"list_id" uuid NOT NULL,
	"at" bigint NOT NULL,
	CONSTRAINT "left_lists_workspace_id_hash_list_id_pk" PRIMARY KEY("workspace_id","hash","list_id")
);
--> statement-breakpoint
ALTER TABLE "suppressed" ADD COLUMN "held_by" uuid;--> statement-breakpoint
CREATE INDEX "suppressed_held" ON "suppressed" USING btree ("workspace_id","held_by");