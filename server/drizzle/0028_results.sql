CREATE TABLE "orders" (
	"workspace_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"at" bigint NOT NULL,
	"amount" bigint NOT NULL,
	"currency" text NOT NULL,
	"number" text,
	"by" text,
	"send_id" uuid,
	"visit_id" uuid,
	"sequence_id" uuid,
	"version" integer,
	"step" text,
	CONSTRAINT "orders_workspace_id_id_pk" PRIMARY KEY("workspace_id","id")
);
--> statement-breakpoint
CREATE TABLE "tallies" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"version" integer NOT NULL,
	"step" text NOT NULL,
	"what" text NOT NULL,
	"detail" text NOT NULL,
	"day" integer NOT NULL,
	"n" bigint NOT NULL,
	CONSTRAINT "tallies_pk" PRIMARY KEY("workspace_id","sequence_id","what","step","detail","version","day")
);
--> statement-breakpoint
CREATE TABLE "tally_moves" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"version" integer NOT NULL,
	"step" text NOT NULL,
	"what" text NOT NULL,
	"detail" text NOT NULL,
	"day" integer,
	"n" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "tally_totals" (
	"workspace_id" uuid NOT NULL,
	"sequence_id" uuid NOT NULL,
	"version" integer NOT NULL,
	"step" text NOT NULL,
	"what" text NOT NULL,
	"detail" text NOT NULL,
	"n" bigint NOT NULL,
	CONSTRAINT "tally_totals_pk" PRIMARY KEY("workspace_id","sequence_id","what","step","detail","version")
);
--> statement-breakpoint
ALTER TABLE "workspaces" ADD COLUMN "money" jsonb DEFAULT '{"event":"order.paid","amount":"total","currency":"currency","code":"code","number":"number","days":5}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "workspaces" ADD COLUMN "money_due" boolean DEFAULT true NOT NULL;--> statement-breakpoint
CREATE UNIQUE INDEX "orders_number" ON "orders" USING btree ("workspace_id","number") WHERE number is not null;--> statement-breakpoint
CREATE INDEX "orders_sequence" ON "orders" USING btree ("workspace_id","sequence_id","at");--> statement-breakpoint
CREATE INDEX "orders_person" ON "orders" USING btree ("workspace_id","person_id","at");--> statement-breakpoint
CREATE INDEX "tallies_day" ON "tallies" USING btree ("workspace_id","what","day");--> statement-breakpoint
-- Zone that a workspace's days are told in. One that this PostgreSQL does not know keeps nobody from being mailed.
CREATE FUNCTION tally_zone(ws uuid) RETURNS text LANGUAGE plpgsql STABLE AS $$
DECLARE z text;
BEGIN
	SELECT zone INTO z FROM workspaces WHERE id = ws;
	PERFORM now() AT TIME ZONE z;
	RETURN coalesce(z, 'UTC');
EXCEPTION WHEN others THEN RETURN 'UTC';
END $$;
--> statement-breakpoint
-- Day of the calendar of a zone, days since 1970-01-01; `at` is epoch ms.
CREATE FUNCTION tally_day(at bigint, zone text) RETURNS int LANGUAGE sql STABLE AS $$
	SELECT ((to_timestamp(at / 1000.0) AT TIME ZONE zone)::date - date '1970-01-01')
$$;
--> statement-breakpoint
-- Days are those on which a passage began, but for what is called "day:", which is counted on the day of the calendar.
CREATE FUNCTION tally_sends() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF tg_op = 'INSERT' THEN
		INSERT INTO tally_moves (workspace_id, sequence_id, version, step, what, detail, day, n)
		SELECT g.workspace_id, g.sequence_id, CASE WHEN m.what LIKE 'day:%' THEN 0 ELSE g.version END, CASE WHEN m.what LIKE 'day:%' THEN '' ELSE g.step END, m.what, '', m.day, sum(m.n)
		FROM (
			SELECT c.workspace_id, c.sequence_id, c.version, c.step, tally_day(coalesce(v.entered_at, c.due_at), w.zone) AS joined, tally_day(coalesce(c.sent_at, c.due_at), w.zone) AS mailed,
				sum(c.sign) FILTER (WHERE c.status IN ('queued', 'leased')) AS queued, sum(c.sign) FILTER (WHERE c.status IN ('sent', 'bounced')) AS sent,
				sum(c.sign) FILTER (WHERE c.status = 'bounced') AS bounced, sum(c.sign) FILTER (WHERE c.status = 'failed') AS failed, sum(c.sign) FILTER (WHERE c.status = 'cancelled') AS cancelled,
				sum(c.sign) FILTER (WHERE c.opened_at IS NOT NULL) AS opened, sum(c.sign) FILTER (WHERE c.clicked_at IS NOT NULL) AS clicked,
				sum(c.sign) FILTER (WHERE c.left_at IS NOT NULL) AS gone, sum(c.sign) FILTER (WHERE c.complained_at IS NOT NULL) AS complained
			FROM (SELECT 1 AS sign, workspace_id, visit_id, sequence_id, version, step, due_at, sent_at, status, opened_at, clicked_at, left_at, complained_at FROM new_rows WHERE visit_id IS NOT NULL) c
			JOIN (SELECT d.workspace_id, tally_zone(d.workspace_id) AS zone FROM (SELECT DISTINCT workspace_id FROM new_rows) d OFFSET 0) w ON w.workspace_id = c.workspace_id
			LEFT JOIN visits v ON v.workspace_id = c.workspace_id AND v.id = c.visit_id
			GROUP BY 1, 2, 3, 4, 5, 6) g
		CROSS JOIN LATERAL (VALUES ('queued', queued, NULL::int), ('sent', sent, joined), ('bounced', bounced, joined), ('failed', failed, joined), ('cancelled', cancelled, joined),
			('opened', opened, joined), ('clicked', clicked, joined), ('left', gone, joined), ('complained', complained, joined), ('day:mailed', sent, mailed)) m (what, n, day)
		GROUP BY 1, 2, 3, 4, 5, 7 HAVING sum(m.n) <> 0;
	ELSE
		INSERT INTO tally_moves (workspace_id, sequence_id, version, step, what, detail, day, n)
		SELECT g.workspace_id, g.sequence_id, CASE WHEN m.what LIKE 'day:%' THEN 0 ELSE g.version END, CASE WHEN m.what LIKE 'day:%' THEN '' ELSE g.step END, m.what, '', m.day, sum(m.n)
		FROM (
			SELECT c.workspace_id, c.sequence_id, c.version, c.step, tally_day(coalesce(v.entered_at, c.due_at), w.zone) AS joined, tally_day(coalesce(c.sent_at, c.due_at), w.zone) AS mailed,
				sum(c.sign) FILTER (WHERE c.status IN ('queued', 'leased')) AS queued, sum(c.sign) FILTER (WHERE c.status IN ('sent', 'bounced')) AS sent,
				sum(c.sign) FILTER (WHERE c.status = 'bounced') AS bounced, sum(c.sign) FILTER (WHERE c.status = 'failed') AS failed, sum(c.sign) FILTER (WHERE c.status = 'cancelled') AS cancelled,
				sum(c.sign) FILTER (WHERE c.opened_at IS NOT NULL) AS opened, sum(c.sign) FILTER (WHERE c.clicked_at IS NOT NULL) AS clicked,
				sum(c.sign) FILTER (WHERE c.left_at IS NOT NULL) AS gone, sum(c.sign) FILTER (WHERE c.complained_at IS NOT NULL) AS complained
			FROM (
				SELECT x.* FROM old_rows o JOIN new_rows n ON n.workspace_id = o.workspace_id AND n.id = o.id
				CROSS JOIN LATERAL (SELECT 1 AS sign, n.workspace_id, n.visit_id, n.sequence_id, n.version, n.step, n.due_at, n.sent_at, n.status, n.opened_at, n.clicked_at, n.left_at, n.complained_at UNION ALL SELECT -1, o.workspace_id, o.visit_id, o.sequence_id, o.version, o.step, o.due_at, o.sent_at, o.status, o.opened_at, o.clicked_at, o.left_at, o.complained_at) x
				WHERE o.visit_id IS NOT NULL AND (o.status IS DISTINCT FROM n.status OR o.sent_at IS DISTINCT FROM n.sent_at OR (o.opened_at IS NULL) <> (n.opened_at IS NULL) OR (o.clicked_at IS NULL) <> (n.clicked_at IS NULL) OR (o.left_at IS NULL) <> (n.left_at IS NULL) OR (o.complained_at IS NULL) <> (n.complained_at IS NULL))) c
			JOIN (SELECT d.workspace_id, tally_zone(d.workspace_id) AS zone FROM (SELECT DISTINCT workspace_id FROM new_rows) d OFFSET 0) w ON w.workspace_id = c.workspace_id
			LEFT JOIN visits v ON v.workspace_id = c.workspace_id AND v.id = c.visit_id
			GROUP BY 1, 2, 3, 4, 5, 6) g
		CROSS JOIN LATERAL (VALUES ('queued', queued, NULL::int), ('sent', sent, joined), ('bounced', bounced, joined), ('failed', failed, joined), ('cancelled', cancelled, joined),
			('opened', opened, joined), ('clicked', clicked, joined), ('left', gone, joined), ('complained', complained, joined), ('day:mailed', sent, mailed)) m (what, n, day)
		GROUP BY 1, 2, 3, 4, 5, 7 HAVING sum(m.n) <> 0;
	END IF;
	RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION tally_visits() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF tg_op = 'INSERT' THEN
		INSERT INTO tally_moves (workspace_id, sequence_id, version, step, what, detail, day, n)
		SELECT g.workspace_id, g.sequence_id, g.version, m.step, m.what, m.detail, m.day, sum(m.n)
		FROM (
			SELECT c.workspace_id, c.sequence_id, c.version, coalesce(c.step, '') AS step, coalesce(c.ending, '') AS ending, tally_day(c.entered_at, w.zone) AS joined,
				sum(c.sign) FILTER (WHERE c.status = 'active') AS inside, sum(c.sign) FILTER (WHERE c.status = 'active' AND c.held) AS held,
				sum(c.sign) FILTER (WHERE c.status = 'active' AND c.awaits IS NOT NULL) AS awaits, sum(c.sign) FILTER (WHERE NOT c.held_out) AS came,
				sum(c.sign) FILTER (WHERE c.held_out) AS held_out, sum(c.sign) FILTER (WHERE c.status = 'done' AND NOT c.held_out) AS ended
			FROM (SELECT 1 AS sign, workspace_id, sequence_id, version, step, ending, entered_at, status, held, held_out, awaits FROM new_rows) c
			JOIN (SELECT d.workspace_id, tally_zone(d.workspace_id) AS zone FROM (SELECT DISTINCT workspace_id FROM new_rows) d OFFSET 0) w ON w.workspace_id = c.workspace_id
			GROUP BY 1, 2, 3, 4, 5, 6) g
		CROSS JOIN LATERAL (VALUES ('inside', inside, step, '', NULL::int), ('held', held, step, '', NULL), ('awaits', awaits, step, '', NULL), ('joined', came, '', '', joined),
			('held-out', held_out, '', '', joined), ('ended', ended, '', ending, joined)) m (what, n, step, detail, day)
		GROUP BY 1, 2, 3, 4, 5, 6, 7 HAVING sum(m.n) <> 0;
	ELSE
		INSERT INTO tally_moves (workspace_id, sequence_id, version, step, what, detail, day, n)
		SELECT g.workspace_id, g.sequence_id, g.version, m.step, m.what, m.detail, m.day, sum(m.n)
		FROM (
			SELECT c.workspace_id, c.sequence_id, c.version, coalesce(c.step, '') AS step, coalesce(c.ending, '') AS ending, tally_day(c.entered_at, w.zone) AS joined,
				sum(c.sign) FILTER (WHERE c.status = 'active') AS inside, sum(c.sign) FILTER (WHERE c.status = 'active' AND c.held) AS held,
				sum(c.sign) FILTER (WHERE c.status = 'active' AND c.awaits IS NOT NULL) AS awaits, sum(c.sign) FILTER (WHERE NOT c.held_out) AS came,
				sum(c.sign) FILTER (WHERE c.held_out) AS held_out, sum(c.sign) FILTER (WHERE c.status = 'done' AND NOT c.held_out) AS ended
			FROM (
				SELECT x.* FROM old_rows o JOIN new_rows n ON n.workspace_id = o.workspace_id AND n.id = o.id
				CROSS JOIN LATERAL (SELECT 1 AS sign, n.workspace_id, n.sequence_id, n.version, n.step, n.ending, n.entered_at, n.status, n.held, n.held_out, n.awaits UNION ALL SELECT -1, o.workspace_id, o.sequence_id, o.version, o.step, o.ending, o.entered_at, o.status, o.held, o.held_out, o.awaits) x
				WHERE o.version IS DISTINCT FROM n.version OR o.status IS DISTINCT FROM n.status OR o.held IS DISTINCT FROM n.held OR o.step IS DISTINCT FROM n.step OR o.ending IS DISTINCT FROM n.ending OR (o.awaits IS NULL) <> (n.awaits IS NULL)) c
			JOIN (SELECT d.workspace_id, tally_zone(d.workspace_id) AS zone FROM (SELECT DISTINCT workspace_id FROM new_rows) d OFFSET 0) w ON w.workspace_id = c.workspace_id
			GROUP BY 1, 2, 3, 4, 5, 6) g
		CROSS JOIN LATERAL (VALUES ('inside', inside, step, '', NULL::int), ('held', held, step, '', NULL), ('awaits', awaits, step, '', NULL), ('joined', came, '', '', joined),
			('held-out', held_out, '', '', joined), ('ended', ended, '', ending, joined)) m (what, n, step, detail, day)
		GROUP BY 1, 2, 3, 4, 5, 6, 7 HAVING sum(m.n) <> 0;
	END IF;
	RETURN NULL;
END $$;
--> statement-breakpoint
-- What one order counts: to the passage that brought it, and on the calendar. One that no email brought is nobody's: then all zeros.
CREATE FUNCTION tally_of_order(sequence uuid, version int, step text, by text, currency text, amount bigint, joined int, ordered int)
RETURNS TABLE (sequence_id uuid, version int, step text, what text, detail text, day int, n bigint) LANGUAGE sql IMMUTABLE AS $$
	SELECT coalesce(sequence, '00000000-0000-0000-0000-000000000000'), m.version, m.step, m.what, m.detail, m.day, m.n FROM (VALUES
		(sequence IS NOT NULL, version, step, 'orders', by, joined, 1),
		(sequence IS NOT NULL, version, step, 'money', currency, joined, amount),
		(true, 0, '', 'day:orders', coalesce(by, ''), ordered, 1),
		(true, 0, '', 'day:money', currency, ordered, amount)) AS m (counts, version, step, what, detail, day, n)
	WHERE m.counts
$$;
--> statement-breakpoint
-- Reasons are counted as they are told. Stories of people who are erased go, and what was counted stays.
CREATE FUNCTION tally_reasons() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	INSERT INTO tally_moves (workspace_id, sequence_id, version, step, what, detail, day, n)
	SELECT t.workspace_id, t.sequence_id, t.version, coalesce(r.e->>'step', ''), 'why:' || (r.e->>'code'), coalesce(r.e->'data'->>'arm', r.e->'data'->>'why', ''),
		tally_day(coalesce(v.entered_at, t.at), w.zone), count(*)
	FROM new_rows t CROSS JOIN LATERAL jsonb_array_elements(t.reasons) r(e)
	JOIN (SELECT workspace_id, tally_zone(workspace_id) AS zone FROM (SELECT DISTINCT workspace_id FROM new_rows) d OFFSET 0) w ON w.workspace_id = t.workspace_id
	LEFT JOIN visits v ON v.workspace_id = t.workspace_id AND v.id = t.visit_id
	WHERE r.e->>'code' IN ('not-entered', 'email-skipped', 'email-cancelled', 'email-too-late', 'email-yields', 'branch-taken', 'branch-otherwise', 'split-taken', 'until-happened', 'until-passed',
		'goal-reached', 'mail-stopped', 'left-by-step', 'left-by-publishing', 'reached-end', 'stopped-by', 'archived')
	GROUP BY 1, 2, 3, 4, 5, 6, 7;
	RETURN NULL;
END $$;
--> statement-breakpoint
-- Orders come and go; what is counted of one never changes.
CREATE FUNCTION tally_orders() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	INSERT INTO tally_moves (workspace_id, sequence_id, version, step, what, detail, day, n)
	SELECT o.workspace_id, m.sequence_id, m.version, m.step, m.what, m.detail, m.day, CASE tg_op WHEN 'DELETE' THEN -1 ELSE 1 END * sum(m.n)
	FROM changed_rows o JOIN (SELECT workspace_id, tally_zone(workspace_id) AS zone FROM (SELECT DISTINCT workspace_id FROM changed_rows) d OFFSET 0) w ON w.workspace_id = o.workspace_id
	LEFT JOIN visits v ON v.workspace_id = o.workspace_id AND v.id = o.visit_id
	CROSS JOIN LATERAL tally_of_order(o.sequence_id, o.version, o.step, o.by, o.currency, o.amount, tally_day(coalesce(v.entered_at, o.at), w.zone), tally_day(o.at, w.zone)) m
	GROUP BY 1, 2, 3, 4, 5, 6, 7;
	RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER tally_insert AFTER INSERT ON "sends" REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION tally_sends();
--> statement-breakpoint
CREATE TRIGGER tally_update AFTER UPDATE ON "sends" REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION tally_sends();
--> statement-breakpoint
CREATE TRIGGER tally_insert AFTER INSERT ON "visits" REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION tally_visits();
--> statement-breakpoint
CREATE TRIGGER tally_update AFTER UPDATE ON "visits" REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION tally_visits();
--> statement-breakpoint
CREATE TRIGGER tally_insert AFTER INSERT ON "traces" REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION tally_reasons();
--> statement-breakpoint
CREATE TRIGGER tally_insert AFTER INSERT ON "orders" REFERENCING NEW TABLE AS changed_rows FOR EACH STATEMENT EXECUTE FUNCTION tally_orders();
--> statement-breakpoint
CREATE TRIGGER tally_delete AFTER DELETE ON "orders" REFERENCING OLD TABLE AS changed_rows FOR EACH STATEMENT EXECUTE FUNCTION tally_orders();
--> statement-breakpoint
-- What there is already.
INSERT INTO tally_moves (workspace_id, sequence_id, version, step, what, detail, day, n)
SELECT g.workspace_id, g.sequence_id, CASE WHEN m.what LIKE 'day:%' THEN 0 ELSE g.version END, CASE WHEN m.what LIKE 'day:%' THEN '' ELSE g.step END, m.what, '', m.day, sum(m.n)
FROM (
	SELECT c.workspace_id, c.sequence_id, c.version, c.step, tally_day(coalesce(v.entered_at, c.due_at), w.zone) AS joined, tally_day(coalesce(c.sent_at, c.due_at), w.zone) AS mailed,
		sum(c.sign) FILTER (WHERE c.status IN ('queued', 'leased')) AS queued, sum(c.sign) FILTER (WHERE c.status IN ('sent', 'bounced')) AS sent,
		sum(c.sign) FILTER (WHERE c.status = 'bounced') AS bounced, sum(c.sign) FILTER (WHERE c.status = 'failed') AS failed, sum(c.sign) FILTER (WHERE c.status = 'cancelled') AS cancelled,
		sum(c.sign) FILTER (WHERE c.opened_at IS NOT NULL) AS opened, sum(c.sign) FILTER (WHERE c.clicked_at IS NOT NULL) AS clicked,
		sum(c.sign) FILTER (WHERE c.left_at IS NOT NULL) AS gone, sum(c.sign) FILTER (WHERE c.complained_at IS NOT NULL) AS complained
	FROM (SELECT 1 AS sign, workspace_id, visit_id, sequence_id, version, step, due_at, sent_at, status, opened_at, clicked_at, left_at, complained_at FROM sends WHERE visit_id IS NOT NULL) c
	JOIN (SELECT d.workspace_id, tally_zone(d.workspace_id) AS zone FROM (SELECT DISTINCT workspace_id FROM sends) d OFFSET 0) w ON w.workspace_id = c.workspace_id
	LEFT JOIN visits v ON v.workspace_id = c.workspace_id AND v.id = c.visit_id
	GROUP BY 1, 2, 3, 4, 5, 6) g
CROSS JOIN LATERAL (VALUES ('queued', queued, NULL::int), ('sent', sent, joined), ('bounced', bounced, joined), ('failed', failed, joined), ('cancelled', cancelled, joined),
	('opened', opened, joined), ('clicked', clicked, joined), ('left', gone, joined), ('complained', complained, joined), ('day:mailed', sent, mailed)) m (what, n, day)
GROUP BY 1, 2, 3, 4, 5, 7 HAVING sum(m.n) <> 0;
--> statement-breakpoint
INSERT INTO tally_moves (workspace_id, sequence_id, version, step, what, detail, day, n)
SELECT g.workspace_id, g.sequence_id, g.version, m.step, m.what, m.detail, m.day, sum(m.n)
FROM (
	SELECT c.workspace_id, c.sequence_id, c.version, coalesce(c.step, '') AS step, coalesce(c.ending, '') AS ending, tally_day(c.entered_at, w.zone) AS joined,
		sum(c.sign) FILTER (WHERE c.status = 'active') AS inside, sum(c.sign) FILTER (WHERE c.status = 'active' AND c.held) AS held,
		sum(c.sign) FILTER (WHERE c.status = 'active' AND c.awaits IS NOT NULL) AS awaits, sum(c.sign) FILTER (WHERE NOT c.held_out) AS came,
		sum(c.sign) FILTER (WHERE c.held_out) AS held_out, sum(c.sign) FILTER (WHERE c.status = 'done' AND NOT c.held_out) AS ended
	FROM (SELECT 1 AS sign, workspace_id, sequence_id, version, step, ending, entered_at, status, held, held_out, awaits FROM visits) c
	JOIN (SELECT d.workspace_id, tally_zone(d.workspace_id) AS zone FROM (SELECT DISTINCT workspace_id FROM visits) d OFFSET 0) w ON w.workspace_id = c.workspace_id
	GROUP BY 1, 2, 3, 4, 5, 6) g
CROSS JOIN LATERAL (VALUES ('inside', inside, step, '', NULL::int), ('held', held, step, '', NULL), ('awaits', awaits, step, '', NULL), ('joined', came, '', '', joined),
	('held-out', held_out, '', '', joined), ('ended', ended, '', ending, joined)) m (what, n, step, detail, day)
GROUP BY 1, 2, 3, 4, 5, 6, 7 HAVING sum(m.n) <> 0;
--> statement-breakpoint
INSERT INTO tally_moves (workspace_id, sequence_id, version, step, what, detail, day, n)
SELECT t.workspace_id, t.sequence_id, t.version, coalesce(t.step, ''), 'why:' || t.code, coalesce(t.data->>'arm', t.data->>'why', ''), tally_day(coalesce(v.entered_at, t.at), w.zone), count(*)
FROM reasons t JOIN (SELECT id, tally_zone(id) AS zone FROM workspaces) w ON w.id = t.workspace_id
LEFT JOIN visits v ON v.workspace_id = t.workspace_id AND v.id = t.visit_id
WHERE t.code IN ('not-entered', 'email-skipped', 'email-cancelled', 'email-too-late', 'email-yields', 'branch-taken', 'branch-otherwise', 'split-taken', 'until-happened', 'until-passed',
	'goal-reached', 'mail-stopped', 'left-by-step', 'left-by-publishing', 'reached-end', 'stopped-by', 'archived')
GROUP BY 1, 2, 3, 4, 5, 6, 7;
