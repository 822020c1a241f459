-- What was filled before there was any packing stands as JSON, marked by its first byte (`src/db/packed.ts`).
ALTER TABLE "sends" ALTER COLUMN "values" SET DATA TYPE bytea USING '\x00'::bytea || convert_to("values"::text, 'UTF8');--> statement-breakpoint
ALTER TABLE "programs" ADD COLUMN "dictionary" bytea;
