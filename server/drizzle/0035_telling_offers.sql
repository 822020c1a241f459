ALTER TABLE "offer_grants" ADD COLUMN "told" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
-- What happened before events told of it is told of nobody now: it would start sequences years late.
UPDATE "offer_grants" SET "told" = case when seen_at is not null then 2 when issued_at is not null then 1 else 0 end;--> statement-breakpoint
CREATE INDEX "offer_grants_telling" ON "offer_grants" USING btree ("issued_at") WHERE told < case when seen_at is not null then 2 when issued_at is not null then 1 else 0 end;