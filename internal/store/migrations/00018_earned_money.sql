-- +goose Up

-- Call-outs, with what they were put down to; and for which times a site's log of them is complete.
CREATE TABLE call_out (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    site_id         uuid NOT NULL,
    unit_id         uuid NOT NULL,
    day             date NOT NULL,
    cause           text NOT NULL CHECK (cause IN ('soiled_coil', 'airflow', 'iced', 'water', 'refrigerant', 'electrical', 'controls', 'misuse', 'other')),
    coil_to_blame   text NOT NULL CHECK (coil_to_blame IN ('yes', 'no', 'unknown')),
    prevented       text NOT NULL CHECK (prevented IN ('yes', 'no', 'unknown')), -- whether a clean in time would have
    cost            double precision CHECK (cost >= 0),
    goods           double precision CHECK (goods >= 0),
    visit_id        uuid,
    note            text NOT NULL,
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);
CREATE INDEX call_out_unit ON call_out (organisation_id, unit_id, day);
CREATE INDEX call_out_site ON call_out (organisation_id, site_id, day);

CREATE TABLE call_log (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    site_id         uuid NOT NULL,
    during          daterange NOT NULL CHECK (NOT isempty(during) AND NOT lower_inf(during) AND NOT upper_inf(during)),
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id),
    EXCLUDE USING gist (organisation_id WITH =, site_id WITH =, during WITH &&)
);

ALTER TABLE import_run DROP CONSTRAINT import_run_kind_check,
    ADD CONSTRAINT import_run_kind_check CHECK (kind IN ('register', 'visits', 'call_outs'));

-- A run first reads the records of call-outs and readings.
ALTER TABLE estimation_run DROP CONSTRAINT estimation_run_step_check,
    ADD CONSTRAINT estimation_run_step_check CHECK (step IN ('records', 'learning', 'proposing', 'done'));

-- What the organisation's own records say of the money of a class: call-outs seen and expected in complete logs, and how far
-- readings before and after cleans bear out the rise that soil is taken to cause.
CREATE TABLE class_evidence (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    class_id        uuid NOT NULL,
    calls_seen      integer NOT NULL,
    calls_expected  double precision NOT NULL,
    unit_years      double precision NOT NULL,
    rise_pairs      integer NOT NULL,
    rise            jsonb, -- the factor learned from them; empty without any
    model_version   text NOT NULL,
    computed_at     timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, class_id),
    FOREIGN KEY (organisation_id, class_id) REFERENCES equipment_class (organisation_id, id)
);
ALTER TABLE rate_estimate
    ADD COLUMN calls_expected double precision NOT NULL DEFAULT 0,
    ADD COLUMN logged_days integer NOT NULL DEFAULT 0,
    ADD COLUMN rise_pairs jsonb; -- of its coil, with the first side; [{"predicted_k", "fell_k"}]

-- What a proposal rests on, so that it can be told what changed since.
ALTER TABLE proposal ADD COLUMN rests jsonb;

-- What a coil's deep clean takes of crew-hours, and what other intervals would cost.
ALTER TABLE coil_line ADD COLUMN hours jsonb;

-- What it is worth to know more of a coil before choosing.
ALTER TABLE coil_line ADD COLUMN look_net double precision NOT NULL DEFAULT 0, ADD COLUMN look jsonb;
CREATE INDEX coil_line_look ON coil_line (organisation_id, look_net DESC) WHERE look_net > 0;

-- On how many of all days a coil may be over the limit.
INSERT INTO house_rule (organisation_id, id, question, choice, reason, valid)
    SELECT r.organisation_id, gen_random_uuid(), 'over_share', '1', 'no bound: what a day over the limit is worth decides', r.valid
    FROM house_rule r WHERE r.question = 'risk_share' AND r.site_id IS NULL AND r.unit_id IS NULL AND upper_inf(r.valid);

-- A new unit; what drives fan and compressor; what runs through the coil; and what its filter holds back.
ALTER TABLE equipment_class
    ADD COLUMN replace_cost double precision NOT NULL DEFAULT 5000 CHECK (replace_cost > 0),
    ADD COLUMN filter_share double precision NOT NULL DEFAULT 0 CHECK (filter_share >= 0 AND filter_share <= 1),
    ADD COLUMN bypass_share double precision NOT NULL DEFAULT 0 CHECK (bypass_share >= 0 AND bypass_share <= 1);
UPDATE equipment_class c SET replace_cost = d.money FROM (VALUES
    ('undercounter_cooler', 1800), ('display_cooler', 1600), ('reach_in', 3000), ('outdoor_condensing', 4500), ('packaged_unit', 18000),
    ('wall_unit', 2200), ('cassette', 3500), ('ceiling_room_cooler', 3000), ('through_wall', 1800), ('air_handler', 9000),
    ('remote_condenser', 15000), ('unit_cooler', 4000), ('ice_machine', 4000)) AS d (code, money) WHERE c.code = d.code;
UPDATE equipment_class SET filter_share = .2, bypass_share = .1
    WHERE code IN ('packaged_unit', 'wall_unit', 'cassette', 'ceiling_room_cooler', 'through_wall', 'air_handler');
ALTER TABLE unit
    ADD COLUMN replace_cost double precision CHECK (replace_cost > 0),
    ADD COLUMN hours_share double precision CHECK (hours_share > 0 AND hours_share <= 1),
    ADD COLUMN running_share double precision CHECK (running_share > 0 AND running_share <= 1),
    ADD COLUMN fan_drive text NOT NULL DEFAULT 'fixed' CHECK (fan_drive IN ('fixed', 'held_flow')),
    ADD COLUMN fan_kwh_day double precision CHECK (fan_kwh_day >= 0),
    ADD COLUMN compressor text NOT NULL DEFAULT 'fixed' CHECK (compressor IN ('fixed', 'variable')),
    ADD COLUMN full_load_share double precision CHECK (full_load_share > 0 AND full_load_share <= 1),
    ADD COLUMN medium text NOT NULL DEFAULT 'refrigerant' CHECK (medium IN ('refrigerant', 'water')),
    ADD COLUMN filter_share double precision CHECK (filter_share >= 0 AND filter_share <= 1),
    ADD COLUMN bypass_share double precision CHECK (bypass_share >= 0 AND bypass_share <= 1);


-- The month a deep clean should fall into, of a class, a site or, as before, a task; 0 is none, whatever class and rule say. And in which
-- months a unit works, where it is another than its class.
ALTER TABLE equipment_class ADD COLUMN anchor_month integer CHECK (anchor_month BETWEEN 0 AND 12);
ALTER TABLE site ADD COLUMN anchor_month integer CHECK (anchor_month BETWEEN 0 AND 12);
ALTER TABLE task DROP CONSTRAINT task_anchor_month_check, ADD CONSTRAINT task_anchor_month_check CHECK (anchor_month BETWEEN 0 AND 12);
ALTER TABLE unit ADD COLUMN load text CHECK (load IN ('even', 'cooling', 'heating', 'both'));

-- +goose Down
ALTER TABLE unit DROP COLUMN load;
UPDATE task SET anchor_month = NULL WHERE anchor_month = 0;
ALTER TABLE task DROP CONSTRAINT task_anchor_month_check, ADD CONSTRAINT task_anchor_month_check CHECK (anchor_month BETWEEN 1 AND 12);
ALTER TABLE site DROP COLUMN anchor_month;
ALTER TABLE equipment_class DROP COLUMN anchor_month;
ALTER TABLE unit DROP COLUMN replace_cost, DROP COLUMN hours_share, DROP COLUMN running_share, DROP COLUMN fan_drive, DROP COLUMN fan_kwh_day,
    DROP COLUMN compressor, DROP COLUMN full_load_share, DROP COLUMN medium, DROP COLUMN filter_share, DROP COLUMN bypass_share;
ALTER TABLE equipment_class DROP COLUMN replace_cost, DROP COLUMN filter_share, DROP COLUMN bypass_share;
DELETE FROM house_rule WHERE question = 'over_share';
ALTER TABLE coil_line DROP COLUMN look, DROP COLUMN look_net, DROP COLUMN hours;
ALTER TABLE proposal DROP COLUMN rests;
ALTER TABLE rate_estimate DROP COLUMN calls_expected, DROP COLUMN logged_days, DROP COLUMN rise_pairs;
UPDATE estimation_run SET step = 'learning' WHERE step = 'records';
ALTER TABLE estimation_run DROP CONSTRAINT estimation_run_step_check,
    ADD CONSTRAINT estimation_run_step_check CHECK (step IN ('learning', 'proposing', 'done'));
DELETE FROM import_mapping WHERE kind = 'call_outs';
DELETE FROM import_run WHERE kind = 'call_outs';
ALTER TABLE import_run DROP CONSTRAINT import_run_kind_check,
    ADD CONSTRAINT import_run_kind_check CHECK (kind IN ('register', 'visits'));
DROP TABLE class_evidence, call_log, call_out;
