CREATE TABLE "offer_codes" (
	"workspace_id" uuid NOT NULL,
	"key" text NOT NULL,
	"offer_id" uuid NOT NULL,
	"code" text NOT NULL,
	"made" boolean NOT NULL,
	"n" bigint NOT NULL,
	"person_id" uuid,
	CONSTRAINT "offer_codes_workspace_id_key_pk" PRIMARY KEY("workspace_id","key")
);
--> statement-breakpoint
CREATE TABLE "offer_grants" (
	"workspace_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"offer_id" uuid NOT NULL,
	"opened_at" bigint NOT NULL,
	"closes_at" bigint,
	"code" text,
	"code_key" text,
	"issued_at" bigint,
	"used_at" bigint,
	"expired_at" bigint,
	CONSTRAINT "offer_grants_workspace_id_person_id_offer_id_pk" PRIMARY KEY("workspace_id","person_id","offer_id")
);
--> statement-breakpoint
CREATE TABLE "offer_uses" (
	"workspace_id" uuid NOT NULL,
	"offer_id" uuid NOT NULL,
	"order_id" text NOT NULL,
	"person_id" uuid,
	"code" text NOT NULL,
	"total" integer NOT NULL,
	"currency" text NOT NULL,
	"at" bigint NOT NULL,
	"cancelled_at" bigint,
	CONSTRAINT "offer_uses_workspace_id_offer_id_order_id_pk" PRIMARY KEY("workspace_id","offer_id","order_id")
);
--> statement-breakpoint
CREATE TABLE "offers" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"doc" jsonb NOT NULL,
	"secret" "bytea" NOT NULL,
	"made" bigint DEFAULT 0 NOT NULL,
	"created_at" bigint NOT NULL,
	CONSTRAINT "offers_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "awaits" uuid;--> statement-breakpoint
CREATE INDEX "offer_codes_free" ON "offer_codes" USING btree ("workspace_id","offer_id","made","n") WHERE person_id is null;--> statement-breakpoint
CREATE INDEX "offer_grants_offer" ON "offer_grants" USING btree ("workspace_id","offer_id","opened_at");--> statement-breakpoint
CREATE INDEX "offer_grants_code" ON "offer_grants" USING btree ("workspace_id","code_key");--> statement-breakpoint
CREATE INDEX "offer_grants_ending" ON "offer_grants" USING btree ("closes_at") WHERE used_at is null and expired_at is null and closes_at is not null and issued_at is not null;--> statement-breakpoint
CREATE INDEX "visits_awaiting" ON "visits" USING btree ("workspace_id","awaits") WHERE awaits is not null;