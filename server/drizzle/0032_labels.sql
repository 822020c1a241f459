CREATE TABLE "labelled" (
	"workspace_id" uuid NOT NULL,
	"label_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"thing" uuid NOT NULL,
	CONSTRAINT "labelled_workspace_id_label_id_kind_thing_pk" PRIMARY KEY("workspace_id","label_id","kind","thing")
);
--> statement-breakpoint
CREATE TABLE "labels" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	CONSTRAINT "labels_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE UNIQUE INDEX "labels_name" ON "labels" USING btree ("workspace_id",lower("name"));