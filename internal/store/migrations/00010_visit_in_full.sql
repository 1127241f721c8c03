-- The visit in full: practice and procedures of the house, steps, isolation, readings, face maps, doses, watch items,
-- advice, stock, graders, links for site staff and contractors, symptoms, and mail.

-- +goose Up
-- An answer to a question of practice may differ at a site or a unit.
ALTER TABLE house_rule ADD COLUMN site_id uuid, ADD COLUMN unit_id uuid,
    ADD COLUMN account_id uuid REFERENCES account (id), ADD COLUMN at timestamptz,
    ADD CHECK (num_nonnulls(site_id, unit_id) <= 1),
    ADD FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id),
    ADD FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id);
ALTER TABLE house_rule DROP CONSTRAINT house_rule_organisation_id_question_valid_excl;
ALTER TABLE house_rule ADD CONSTRAINT house_rule_one_answer EXCLUDE USING gist (
    organisation_id WITH =, question WITH =, (coalesce(site_id, unit_id, '00000000-0000-0000-0000-000000000000'::uuid)) WITH =, valid WITH &&);

CREATE TABLE procedure_version (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    class_id        uuid NOT NULL,
    version         integer NOT NULL CHECK (version > 0),
    steps           jsonb NOT NULL,
    reason          text NOT NULL,
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, class_id, version),
    FOREIGN KEY (organisation_id, class_id) REFERENCES equipment_class (organisation_id, id)
);

ALTER TABLE cleaner ADD COLUMN duty integer NOT NULL DEFAULT 1 CHECK (duty BETWEEN 0 AND 4),
    ADD COLUMN flammable boolean NOT NULL DEFAULT false;
UPDATE cleaner SET flammable = true WHERE form = 'aerosol';
UPDATE cleaner SET duty = CASE code WHEN 'water' THEN 0 WHEN 'medium_universal' THEN 2 WHEN 'non_acid' THEN 2 WHEN 'solvent_aerosol' THEN 2
    WHEN 'heavy_alkaline' THEN 3 WHEN 'extra_heavy_alkaline' THEN 4 ELSE 1 END;
ALTER TABLE sprayer_setting ADD COLUMN tank_l double precision CHECK (tank_l > 0);

ALTER TABLE visit ADD COLUMN procedure_version integer,
    ADD COLUMN source text NOT NULL DEFAULT 'desk' CHECK (source IN ('desk', 'phone', 'import', 'contractor')),
    ADD COLUMN started_at timestamptz, ADD COLUMN finished_at timestamptz, ADD COLUMN arrived_at timestamptz,
    ADD COLUMN told_whom text NOT NULL DEFAULT '',
    -- What was freely chosen, by question of practice.
    ADD COLUMN choices jsonb NOT NULL DEFAULT '{}';

CREATE TABLE step_result (
    organisation_id uuid NOT NULL,
    visit_id        uuid NOT NULL,
    step            text NOT NULL,
    position        integer NOT NULL,
    phase           text NOT NULL,
    text            text NOT NULL,
    gate            boolean NOT NULL,
    state           text NOT NULL CHECK (state IN ('done', 'skipped')),
    reason          text NOT NULL DEFAULT '',
    at              timestamptz,
    PRIMARY KEY (organisation_id, visit_id, step),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);

CREATE TABLE isolation_proof (
    organisation_id uuid NOT NULL,
    visit_id        uuid NOT NULL,
    point           text NOT NULL,
    means           text NOT NULL CHECK (means IN ('breaker', 'disconnect', 'plug')),
    secured         text NOT NULL CHECK (secured IN ('locked', 'tagged', 'locked_and_tagged', 'plug_in_hand', 'not')),
    discharged      boolean NOT NULL,
    meter_tried     boolean NOT NULL,
    l1_l2_v         double precision CHECK (l1_l2_v BETWEEN 0 AND 1000),
    l1_ground_v     double precision CHECK (l1_ground_v BETWEEN 0 AND 1000),
    l2_ground_v     double precision CHECK (l2_ground_v BETWEEN 0 AND 1000),
    person_id       uuid,
    at              timestamptz,
    PRIMARY KEY (organisation_id, visit_id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id),
    FOREIGN KEY (organisation_id, person_id) REFERENCES person (organisation_id, id)
);

ALTER TABLE finding ADD COLUMN blocked_share double precision CHECK (blocked_share >= 0 AND blocked_share <= 1);
CREATE TABLE finding_cell (
    organisation_id uuid NOT NULL,
    finding_id      uuid NOT NULL,
    row_no          integer NOT NULL CHECK (row_no BETWEEN 0 AND 11),
    column_no       integer NOT NULL CHECK (column_no BETWEEN 0 AND 11),
    grade           integer CHECK (grade BETWEEN 0 AND 5),
    why_not         text NOT NULL DEFAULT '',
    PRIMARY KEY (organisation_id, finding_id, row_no, column_no),
    CHECK ((grade IS NULL) = (why_not <> '')),
    FOREIGN KEY (organisation_id, finding_id) REFERENCES finding (organisation_id, id)
);

ALTER TABLE treatment ADD COLUMN setting_id uuid,
    ADD COLUMN planned_l double precision CHECK (planned_l >= 0), ADD COLUMN loaded_l double precision CHECK (loaded_l >= 0),
    ADD COLUMN topped_up_l double precision CHECK (topped_up_l >= 0), ADD COLUMN returned_l double precision CHECK (returned_l >= 0),
    ADD COLUMN mix_l double precision CHECK (mix_l >= 0), ADD COLUMN rinse_l double precision CHECK (rinse_l >= 0),
    ADD COLUMN dwell_s integer CHECK (dwell_s >= 0), ADD COLUMN over_dwell text NOT NULL DEFAULT '',
    ADD COLUMN tip text NOT NULL DEFAULT '',
    ADD FOREIGN KEY (organisation_id, setting_id) REFERENCES sprayer_setting (organisation_id, id);

CREATE TABLE reading (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    visit_id        uuid NOT NULL,
    coil_id         uuid,
    phase           text NOT NULL CHECK (phase IN ('before', 'after')),
    kind            text NOT NULL,
    value           double precision NOT NULL,
    typed           text NOT NULL DEFAULT '',
    source          text NOT NULL CHECK (source IN ('typed', 'gauge')),
    context         jsonb NOT NULL,
    verdict         text NOT NULL CHECK (verdict IN ('pass', 'borderline', 'fail', 'cannot_judge')),
    judgement       jsonb NOT NULL,
    cause           text NOT NULL DEFAULT '',
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id),
    FOREIGN KEY (organisation_id, coil_id) REFERENCES coil (organisation_id, id)
);
CREATE INDEX reading_visit ON reading (organisation_id, visit_id);

CREATE TABLE rule_exception (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    visit_id        uuid NOT NULL,
    ban             text NOT NULL,
    question        text NOT NULL,
    reason          text NOT NULL CHECK (reason <> ''),
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);
CREATE INDEX rule_exception_visit ON rule_exception (organisation_id, visit_id);

CREATE TABLE watch_item (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    unit_id         uuid NOT NULL,
    surface_id      uuid,
    visit_id        uuid,
    what            text NOT NULL CHECK (what <> ''),
    opened          date NOT NULL,
    closed          date,
    closed_why      text NOT NULL DEFAULT '',
    account_id      uuid REFERENCES account (id),
    PRIMARY KEY (organisation_id, id),
    CHECK ((closed IS NULL) = (closed_why = '')),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    FOREIGN KEY (organisation_id, surface_id) REFERENCES surface (organisation_id, id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);
CREATE INDEX watch_item_unit ON watch_item (organisation_id, unit_id);
CREATE TABLE watch_look (
    organisation_id uuid NOT NULL,
    watch_item_id   uuid NOT NULL,
    visit_id        uuid NOT NULL,
    state           text NOT NULL CHECK (state IN ('same', 'worse', 'better', 'gone')),
    note            text NOT NULL DEFAULT '',
    PRIMARY KEY (organisation_id, watch_item_id, visit_id),
    FOREIGN KEY (organisation_id, watch_item_id) REFERENCES watch_item (organisation_id, id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);

CREATE TABLE advice_given (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    visit_id        uuid NOT NULL,
    text            text NOT NULL CHECK (text <> ''),
    answer          text NOT NULL CHECK (answer IN ('not_told', 'told', 'agreed', 'declined')),
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);
CREATE INDEX advice_given_visit ON advice_given (organisation_id, visit_id);

CREATE TABLE count_back (
    organisation_id uuid NOT NULL,
    visit_id        uuid NOT NULL,
    what            text NOT NULL CHECK (what IN ('screws', 'plugs', 'panels', 'tools')),
    taken           integer NOT NULL CHECK (taken BETWEEN 0 AND 500),
    back            integer NOT NULL CHECK (back BETWEEN 0 AND 500),
    why             text NOT NULL DEFAULT '',
    PRIMARY KEY (organisation_id, visit_id, what),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);

CREATE TABLE refrigerant_table (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    code            text NOT NULL,
    points          jsonb NOT NULL,
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, code)
);

CREATE TABLE stock_item (
    organisation_id uuid NOT NULL,
    cleaner_id      uuid NOT NULL,
    reorder_at_l    double precision NOT NULL DEFAULT 0 CHECK (reorder_at_l >= 0),
    lead_days       integer NOT NULL DEFAULT 7 CHECK (lead_days BETWEEN 0 AND 365),
    version         integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, cleaner_id),
    FOREIGN KEY (organisation_id, cleaner_id) REFERENCES cleaner (organisation_id, id)
);
CREATE TABLE stock_move (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    cleaner_id      uuid NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('bought', 'opened', 'drawn', 'returned', 'counted')),
    litres          double precision NOT NULL,
    day             date NOT NULL,
    visit_id        uuid,
    note            text NOT NULL DEFAULT '',
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, cleaner_id) REFERENCES cleaner (organisation_id, id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);
CREATE INDEX stock_move_cleaner ON stock_move (organisation_id, cleaner_id, day);
CREATE INDEX stock_move_visit ON stock_move (organisation_id, visit_id) WHERE visit_id IS NOT NULL;

-- How somebody grades, from the faces of teach mode.
CREATE TABLE grader (
    organisation_id uuid NOT NULL,
    person_id       uuid NOT NULL,
    scores          jsonb NOT NULL,
    estimate        jsonb NOT NULL,
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, person_id),
    FOREIGN KEY (organisation_id, person_id) REFERENCES person (organisation_id, id)
);

-- A link without an account: for a site's staff, or for a contractor to return one unit's visit. Only its hash is kept.
CREATE TABLE guest_link (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('site_staff', 'contractor')),
    site_id         uuid NOT NULL,
    unit_id         uuid,
    name            text NOT NULL,
    token_hash      text NOT NULL UNIQUE,
    expires_at      timestamptz NOT NULL,
    revoked_at      timestamptz,
    used_at         timestamptz,
    account_id      uuid NOT NULL REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    CHECK ((kind = 'contractor') = (unit_id IS NOT NULL)),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id)
);
CREATE INDEX guest_link_site ON guest_link (organisation_id, site_id);
ALTER TABLE task_tick ADD COLUMN link_id uuid,
    ADD FOREIGN KEY (organisation_id, link_id) REFERENCES guest_link (organisation_id, id);

CREATE TABLE symptom_report (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    site_id         uuid NOT NULL,
    unit_id         uuid,
    kind            text NOT NULL CHECK (kind IN ('not_cold', 'water', 'buzzing', 'warm_goods', 'hot_compressor', 'stopped_after_mowing', 'other')),
    note            text NOT NULL DEFAULT '',
    reporter        text NOT NULL DEFAULT '',
    day             date NOT NULL,
    at              timestamptz NOT NULL,
    link_id         uuid,
    account_id      uuid REFERENCES account (id),
    status          text NOT NULL DEFAULT 'open' CHECK (status IN ('open', 'brought_forward', 'elsewhere', 'closed')),
    -- What the soil was thought to be when it came in.
    forecast_share  double precision CHECK (forecast_share BETWEEN 0 AND 1),
    triage_note     text NOT NULL DEFAULT '',
    coil_was_cause  boolean,
    visit_id        uuid,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    FOREIGN KEY (organisation_id, link_id) REFERENCES guest_link (organisation_id, id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);
CREATE INDEX symptom_report_status ON symptom_report (organisation_id, status, at DESC);
CREATE INDEX symptom_report_unit ON symptom_report (organisation_id, unit_id);

-- A clean brought forward counts as due from this day until it is done.
ALTER TABLE task ADD COLUMN forward_to date;

ALTER TABLE attachment DROP CONSTRAINT attachment_entity_check;
ALTER TABLE attachment ADD CONSTRAINT attachment_entity_check CHECK (entity IN ('unit', 'site', 'visit', 'symptom', 'tick', 'watch')),
    ADD COLUMN surface_id uuid, ADD COLUMN step text NOT NULL DEFAULT '',
    ADD COLUMN phase text NOT NULL DEFAULT '' CHECK (phase IN ('', 'before', 'after')),
    ADD FOREIGN KEY (organisation_id, surface_id) REFERENCES surface (organisation_id, id);

CREATE TABLE mail_out (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    recipient       text NOT NULL,
    subject         text NOT NULL,
    body            text NOT NULL,
    file_name       text NOT NULL DEFAULT '',
    file            bytea,
    visit_id        uuid,
    status          text NOT NULL DEFAULT 'waiting' CHECK (status IN ('waiting', 'sent', 'failed')),
    tries           integer NOT NULL DEFAULT 0,
    error           text NOT NULL DEFAULT '',
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    sent_at         timestamptz,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);
CREATE INDEX mail_out_status ON mail_out (organisation_id, status, at);
ALTER TABLE site ADD COLUMN mail text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE site DROP COLUMN mail;
DROP TABLE mail_out;
DELETE FROM attachment WHERE entity IN ('symptom', 'tick', 'watch');
ALTER TABLE attachment DROP COLUMN surface_id, DROP COLUMN step, DROP COLUMN phase, DROP CONSTRAINT attachment_entity_check;
ALTER TABLE attachment ADD CONSTRAINT attachment_entity_check CHECK (entity IN ('unit', 'site', 'visit'));
ALTER TABLE task DROP COLUMN forward_to;
DROP TABLE symptom_report;
ALTER TABLE task_tick DROP COLUMN link_id;
DROP TABLE guest_link, grader, stock_move, stock_item, refrigerant_table, count_back, advice_given, watch_look, watch_item, rule_exception, reading;
ALTER TABLE treatment DROP COLUMN setting_id, DROP COLUMN planned_l, DROP COLUMN loaded_l, DROP COLUMN topped_up_l, DROP COLUMN returned_l,
    DROP COLUMN mix_l, DROP COLUMN rinse_l, DROP COLUMN dwell_s, DROP COLUMN over_dwell, DROP COLUMN tip;
DROP TABLE finding_cell;
ALTER TABLE finding DROP COLUMN blocked_share;
DROP TABLE isolation_proof, step_result;
ALTER TABLE visit DROP COLUMN procedure_version, DROP COLUMN source, DROP COLUMN started_at, DROP COLUMN finished_at, DROP COLUMN arrived_at,
    DROP COLUMN told_whom, DROP COLUMN choices;
ALTER TABLE sprayer_setting DROP COLUMN tank_l;
ALTER TABLE cleaner DROP COLUMN duty, DROP COLUMN flammable;
DROP TABLE procedure_version;
DELETE FROM house_rule WHERE site_id IS NOT NULL OR unit_id IS NOT NULL OR question <> 'limit_share';
ALTER TABLE house_rule DROP CONSTRAINT house_rule_one_answer;
ALTER TABLE house_rule DROP COLUMN site_id, DROP COLUMN unit_id, DROP COLUMN account_id, DROP COLUMN at,
    ADD CONSTRAINT house_rule_organisation_id_question_valid_excl EXCLUDE USING gist (organisation_id WITH =, question WITH =, valid WITH &&);
