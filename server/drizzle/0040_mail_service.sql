CREATE TABLE "mail_service" (
	"id" integer PRIMARY KEY NOT NULL,
	"since" bigint NOT NULL,
	"next_try_at" bigint NOT NULL,
	"tries" integer NOT NULL,
	"answer" text NOT NULL,
	"stage" text NOT NULL
);
