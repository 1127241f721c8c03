-- The soil engine: what is learned of each side, what methods really take away, caps, the price of a day over the limit,
-- what the portfolio shows of it, and runs that work everything out anew.

-- +goose Up
CREATE TABLE rate_estimate (
    organisation_id uuid NOT NULL,
    surface_id      uuid NOT NULL,
    coil_id         uuid NOT NULL,
    unit_id         uuid NOT NULL,
    class_id        uuid NOT NULL,
    site_id         uuid NOT NULL,
    role            text NOT NULL,
    own_mean        double precision,
    own_variance    double precision CHECK (own_variance > 0),
    telling         integer NOT NULL CHECK (telling >= 0),
    counted         integer NOT NULL CHECK (counted >= 0),
    rate            double precision NOT NULL,
    assumed         double precision NOT NULL,
    model_version   text NOT NULL,
    inputs_hash     text NOT NULL,
    computed_at     timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, surface_id),
    CHECK ((own_mean IS NULL) = (own_variance IS NULL)),
    FOREIGN KEY (organisation_id, surface_id) REFERENCES surface (organisation_id, id) ON DELETE CASCADE
);
-- Peers of a side; those that count only.
CREATE INDEX rate_estimate_peers ON rate_estimate (organisation_id, class_id, role, site_id) WHERE telling > 0 AND own_mean IS NOT NULL;
CREATE INDEX rate_estimate_unit ON rate_estimate (organisation_id, unit_id);

CREATE TABLE removal_estimate (
    organisation_id uuid NOT NULL,
    method_id       uuid NOT NULL,
    family          text NOT NULL CHECK (family IN ('dust_like', 'grease_like')),
    face_share      double precision NOT NULL CHECK (face_share BETWEEN 0 AND 1),
    core_share      double precision NOT NULL CHECK (core_share BETWEEN 0 AND 1),
    face_pairs      integer NOT NULL,
    core_pairs      integer NOT NULL,
    model_version   text NOT NULL,
    computed_at     timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, method_id, family),
    FOREIGN KEY (organisation_id, method_id) REFERENCES method (organisation_id, id)
);

CREATE TABLE task_cap (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    task_id         uuid NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('contract', 'maker', 'hygiene', 'chemistry')),
    most_days       integer CHECK (most_days BETWEEN 1 AND 3650),
    times_a_year    double precision CHECK (times_a_year > 0),
    note            text NOT NULL DEFAULT '',
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    CHECK ((kind = 'chemistry') = (times_a_year IS NOT NULL) AND (kind = 'chemistry') = (most_days IS NULL)),
    FOREIGN KEY (organisation_id, task_id) REFERENCES task (organisation_id, id)
);
CREATE INDEX task_cap_task ON task_cap (organisation_id, task_id);

ALTER TABLE equipment_class
    ADD COLUMN energy_kwh_day double precision NOT NULL DEFAULT 5 CHECK (energy_kwh_day >= 0),
    ADD COLUMN over_price double precision CHECK (over_price >= 0);
UPDATE equipment_class c SET energy_kwh_day = d.kwh FROM (VALUES
    ('undercounter_cooler', 6), ('display_cooler', 8), ('reach_in', 9), ('outdoor_condensing', 22), ('packaged_unit', 60), ('wall_unit', 8),
    ('cassette', 14), ('ceiling_room_cooler', 12), ('through_wall', 10), ('air_handler', 30), ('remote_condenser', 90), ('unit_cooler', 25),
    ('ice_machine', 18)) AS d (code, kwh) WHERE c.code = d.code;
ALTER TABLE site ADD COLUMN over_price double precision CHECK (over_price >= 0);
-- Houses made before get the new price; new ones get it with the others.
INSERT INTO rate (organisation_id, id, code, name, unit, amount, position, evidence, source)
    SELECT o.id, gen_random_uuid(), 'over_limit', 'A coil over the limit', 'per day', .5, 90, 'assumption', 'assumption' FROM organisation o
    WHERE EXISTS (SELECT 1 FROM rate r WHERE r.organisation_id = o.id);

INSERT INTO house_rule (organisation_id, id, question, choice, reason, valid)
    SELECT r.organisation_id, gen_random_uuid(), 'risk_share', '0.2', 'one time in five it may be passed before the next clean', r.valid
    FROM house_rule r WHERE r.question = 'limit_share' AND r.site_id IS NULL AND r.unit_id IS NULL AND upper_inf(r.valid);

ALTER TABLE proposal ADD COLUMN closed_at timestamptz, ADD COLUMN limit_days double precision, ADD COLUMN cost_days double precision,
    ADD COLUMN saves_year double precision;
CREATE INDEX proposal_closed ON proposal (organisation_id, task_id, closed_at) WHERE status = 'superseded';
ALTER TABLE interval_change DROP CONSTRAINT interval_change_school_check,
    ADD CHECK (school IN ('habit', 'staircase', 'limit', 'cost', 'own'));

ALTER TABLE coil_line ADD COLUMN rate double precision NOT NULL DEFAULT 0, ADD COLUMN wait_week double precision NOT NULL DEFAULT 0;
CREATE INDEX coil_line_by_wait ON coil_line (organisation_id, wait_week DESC, coil_id);
CREATE INDEX coil_line_by_rate ON coil_line (organisation_id, rate DESC, coil_id);
CREATE INDEX coil_line_group ON coil_line (organisation_id, class_id, role, site_id);

-- Everything worked out anew, in the background.
CREATE TABLE estimation_run (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    status          text NOT NULL CHECK (status IN ('queued', 'running', 'done', 'cancelled', 'failed')),
    step            text NOT NULL CHECK (step IN ('learning', 'proposing', 'done')),
    after           uuid NOT NULL,
    done            integer NOT NULL DEFAULT 0,
    total           integer NOT NULL,
    cancel_wanted   boolean NOT NULL DEFAULT false,
    note            text NOT NULL DEFAULT '',
    heard_at        timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id)
);
CREATE UNIQUE INDEX estimation_run_one ON estimation_run (organisation_id) WHERE status IN ('queued', 'running');

-- The queue of work in the background has a schema of its own; its tables come with its library.
CREATE SCHEMA IF NOT EXISTS river;

-- +goose Down
DROP SCHEMA IF EXISTS river CASCADE;
DROP TABLE estimation_run;
DROP INDEX coil_line_by_wait, coil_line_by_rate, coil_line_group, proposal_closed;
ALTER TABLE coil_line DROP COLUMN rate, DROP COLUMN wait_week;
UPDATE interval_change SET school = 'staircase' WHERE school IN ('limit', 'cost');
ALTER TABLE interval_change DROP CONSTRAINT interval_change_school_check, ADD CHECK (school IN ('habit', 'staircase', 'own'));
ALTER TABLE proposal DROP COLUMN closed_at, DROP COLUMN limit_days, DROP COLUMN cost_days, DROP COLUMN saves_year;
DELETE FROM rate WHERE code = 'over_limit';
DELETE FROM house_rule WHERE question = 'risk_share';
ALTER TABLE site DROP COLUMN over_price;
ALTER TABLE equipment_class DROP COLUMN energy_kwh_day, DROP COLUMN over_price;
DROP TABLE task_cap, removal_estimate, rate_estimate;
