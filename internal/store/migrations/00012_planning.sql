-- Planning the weeks: what crews have and when they are away, where windows and water are, plans with their problem and
-- result, rounds with their times, feeds.

-- +goose Up
ALTER TABLE crew
    ADD COLUMN kind text NOT NULL DEFAULT 'own' CHECK (kind IN ('own', 'contractor')),
    ADD COLUMN base_site_id uuid,
    ADD COLUMN people integer NOT NULL DEFAULT 1 CHECK (people BETWEEN 1 AND 20),
    ADD COLUMN skills text[] NOT NULL DEFAULT '{}',
    ADD COLUMN kit text[] NOT NULL DEFAULT '{ladder}',
    ADD COLUMN tank_l double precision NOT NULL DEFAULT 0 CHECK (tank_l >= 0),
    ADD COLUMN overtime_minutes integer NOT NULL DEFAULT 0 CHECK (overtime_minutes BETWEEN 0 AND 480),
    ADD COLUMN day_fee numeric(12, 2) NOT NULL DEFAULT 0 CHECK (day_fee >= 0),
    ADD COLUMN mail text NOT NULL DEFAULT '',
    ADD FOREIGN KEY (organisation_id, base_site_id) REFERENCES site (organisation_id, id);
CREATE TABLE crew_absence (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    crew_id         uuid NOT NULL,
    during          daterange NOT NULL CHECK (NOT isempty(during)),
    -- How many are away; nobody is left where it is as many as the crew has.
    people          integer NOT NULL CHECK (people BETWEEN 1 AND 20),
    reason          text NOT NULL DEFAULT '',
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, crew_id) REFERENCES crew (organisation_id, id)
);
CREATE INDEX crew_absence_crew ON crew_absence (organisation_id, crew_id);

ALTER TABLE site_window ADD COLUMN placement_id uuid,
    ADD FOREIGN KEY (organisation_id, placement_id) REFERENCES placement (organisation_id, id) ON DELETE CASCADE;
-- On a holiday a site is closed, or only its staff is away: then its crew has the place to itself, and what staff do is left.
ALTER TABLE holiday ADD COLUMN access text NOT NULL DEFAULT 'closed' CHECK (access IN ('closed', 'staff_away'));
ALTER TABLE placement ADD COLUMN water text NOT NULL DEFAULT 'unstated' CHECK (water IN ('unstated', 'yes', 'no'));
ALTER TABLE unit_access ADD COLUMN skill text NOT NULL DEFAULT '';

ALTER TABLE plan
    ADD COLUMN status text NOT NULL DEFAULT 'done' CHECK (status IN ('running', 'done', 'cancelled', 'failed')),
    ADD COLUMN is_current boolean NOT NULL DEFAULT false,
    ADD COLUMN version integer NOT NULL DEFAULT 1,
    ADD COLUMN account_id uuid REFERENCES account (id),
    ADD COLUMN start date, ADD COLUMN days integer NOT NULL DEFAULT 1 CHECK (days BETWEEN 1 AND 182),
    ADD COLUMN seed bigint NOT NULL DEFAULT 0, ADD COLUMN iterations integer NOT NULL DEFAULT 0,
    ADD COLUMN share double precision NOT NULL DEFAULT 1, ADD COLUMN cost double precision NOT NULL DEFAULT 0,
    ADD COLUMN placed integer NOT NULL DEFAULT 0, ADD COLUMN cancel_wanted boolean NOT NULL DEFAULT false,
    ADD COLUMN heard_at timestamptz NOT NULL DEFAULT now(), ADD COLUMN note text NOT NULL DEFAULT '',
    ADD COLUMN problem jsonb, ADD COLUMN jobs jsonb, ADD COLUMN result jsonb, ADD COLUMN greedy jsonb, ADD COLUMN changes jsonb;
CREATE UNIQUE INDEX plan_current ON plan (organisation_id) WHERE is_current;
CREATE UNIQUE INDEX plan_running ON plan (organisation_id) WHERE status = 'running';

ALTER TABLE round DROP CONSTRAINT round_status_check, ADD CHECK (status IN ('published', 'withdrawn', 'done', 'superseded')),
    ADD COLUMN uid uuid, ADD COLUMN starts text NOT NULL DEFAULT '', ADD COLUMN back text NOT NULL DEFAULT '',
    ADD COLUMN driving_minutes double precision NOT NULL DEFAULT 0, ADD COLUMN changed_at timestamptz;
UPDATE round SET uid = id, changed_at = published_at;
ALTER TABLE round ALTER COLUMN uid SET NOT NULL, ALTER COLUMN changed_at SET NOT NULL;
CREATE INDEX round_feed ON round (organisation_id, crew_id, day DESC);
ALTER TABLE stop ADD COLUMN arrive text NOT NULL DEFAULT '', ADD COLUMN leave text NOT NULL DEFAULT '', ADD COLUMN latest text NOT NULL DEFAULT '',
    ADD COLUMN drive_minutes double precision NOT NULL DEFAULT 0;
-- The whole job as it went out; tasks are all clocks it serves, what rides along included.
ALTER TABLE stop_job ALTER COLUMN task_id DROP NOT NULL, ADD COLUMN key text NOT NULL DEFAULT '', ADD COLUMN tasks uuid[] NOT NULL DEFAULT '{}',
    ADD COLUMN job jsonb;
UPDATE stop_job SET key = 'task/' || task_id || '/0', tasks = ARRAY[task_id];

CREATE TABLE feed_token (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    crew_id         uuid NOT NULL,
    token_hash      text NOT NULL UNIQUE,
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    revoked_at      timestamptz,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, crew_id) REFERENCES crew (organisation_id, id)
);
CREATE UNIQUE INDEX feed_token_crew ON feed_token (organisation_id, crew_id) WHERE revoked_at IS NULL;

ALTER TABLE organisation ADD COLUMN digest_mail text NOT NULL DEFAULT '';
-- What goes out once a week, or once for a job: digests and reminders.
CREATE TABLE notice_sent (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    kind            text NOT NULL CHECK (kind IN ('digest', 'reminder')),
    key             text NOT NULL,
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, kind, key)
);

-- Houses made before get the new figures; new ones get them with the others.
INSERT INTO rate (organisation_id, id, code, name, unit, amount, position, evidence, source)
    SELECT o.id, gen_random_uuid(), d.code, d.name, d.unit, d.amount, d.position, 'assumption', 'assumption'
    FROM organisation o, (VALUES
        ('vehicle', 'A vehicle on the road', 'per hour', 18, 100), ('overtime', 'Overtime, on top', 'per hour', 24, 101),
        ('stop', 'Lost at every stop', 'minutes', 20, 102), ('hand_back', 'Handing a place back before its window ends', 'minutes', 10, 103),
        ('speed', 'Speed on the road', 'km/h', 35, 104), ('road_factor', 'Road against straight line', 'times', 1.3, 105),
        ('move_published', 'Moving what was published', 'each', 40, 106), ('late_day', 'A job past its day', 'per day', .5, 107), ('move_planned', 'Moving what was only planned', 'each', 4, 109),
        ('cap_missed', 'A hard cap passed', 'each', 500, 108)) AS d (code, name, unit, amount, position)
    WHERE EXISTS (SELECT 1 FROM rate r WHERE r.organisation_id = o.id);

-- +goose Down
DELETE FROM rate WHERE code IN ('vehicle', 'overtime', 'stop', 'hand_back', 'speed', 'road_factor', 'move_published', 'move_planned', 'late_day', 'cap_missed');
DROP TABLE notice_sent, feed_token;
ALTER TABLE organisation DROP COLUMN digest_mail;
DELETE FROM stop_job WHERE task_id IS NULL;
ALTER TABLE stop_job DROP COLUMN job, DROP COLUMN tasks, DROP COLUMN key, ALTER COLUMN task_id SET NOT NULL;
ALTER TABLE stop DROP COLUMN drive_minutes, DROP COLUMN latest, DROP COLUMN leave, DROP COLUMN arrive;
DROP INDEX round_feed;
UPDATE round SET status = 'withdrawn' WHERE status = 'superseded';
ALTER TABLE round DROP CONSTRAINT round_status_check, ADD CHECK (status IN ('published', 'withdrawn', 'done')),
    DROP COLUMN changed_at, DROP COLUMN driving_minutes, DROP COLUMN back, DROP COLUMN starts, DROP COLUMN uid;
DROP INDEX plan_running, plan_current;
ALTER TABLE plan DROP COLUMN changes, DROP COLUMN greedy, DROP COLUMN result, DROP COLUMN jobs, DROP COLUMN problem, DROP COLUMN note,
    DROP COLUMN heard_at, DROP COLUMN cancel_wanted, DROP COLUMN placed, DROP COLUMN cost, DROP COLUMN share, DROP COLUMN iterations,
    DROP COLUMN seed, DROP COLUMN days, DROP COLUMN start, DROP COLUMN account_id, DROP COLUMN version, DROP COLUMN is_current, DROP COLUMN status;
ALTER TABLE unit_access DROP COLUMN skill;
ALTER TABLE placement DROP COLUMN water;
ALTER TABLE holiday DROP COLUMN access;
ALTER TABLE site_window DROP COLUMN placement_id;
DROP TABLE crew_absence;
ALTER TABLE crew DROP COLUMN mail, DROP COLUMN day_fee, DROP COLUMN overtime_minutes, DROP COLUMN tank_l, DROP COLUMN kit, DROP COLUMN skills,
    DROP COLUMN people, DROP COLUMN base_site_id, DROP COLUMN kind;
