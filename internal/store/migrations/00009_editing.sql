-- Editing with a memory: amended and voided visits, bulk changes that can be undone, attachments, imports that run
-- on their own, and versions of what the house has changed in its catalogues.

-- +goose Up
ALTER TABLE visit ADD COLUMN status_reason text NOT NULL DEFAULT '';
CREATE INDEX visit_supersedes ON visit (organisation_id, supersedes) WHERE supersedes IS NOT NULL;

CREATE TABLE bulk_change (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    at              timestamptz NOT NULL,
    account_id      uuid NOT NULL REFERENCES account (id),
    what            text NOT NULL,
    changes         jsonb NOT NULL,
    undone_at       timestamptz,
    PRIMARY KEY (organisation_id, id)
);

CREATE TABLE attachment (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    entity          text NOT NULL CHECK (entity IN ('unit', 'site', 'visit')),
    entity_id       uuid NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('photo', 'data_sheet', 'manual', 'other')),
    name            text NOT NULL,
    media_type      text NOT NULL,
    bytes           integer NOT NULL,
    sha256          text NOT NULL,
    content         bytea NOT NULL,
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id)
);
CREATE INDEX attachment_entity ON attachment (organisation_id, entity, entity_id);

CREATE TABLE import_mapping (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    kind            text NOT NULL,
    foreign_name    text NOT NULL,
    column_name     text NOT NULL,
    PRIMARY KEY (organisation_id, kind, foreign_name)
);

ALTER TABLE import_run ADD COLUMN kind text NOT NULL DEFAULT 'register' CHECK (kind IN ('register', 'visits')),
    ADD COLUMN status text NOT NULL DEFAULT 'stored'
        CHECK (status IN ('running', 'checked', 'stored', 'unchanged', 'refused', 'cancelled', 'failed')),
    ADD COLUMN step text NOT NULL DEFAULT '',
    ADD COLUMN done integer NOT NULL DEFAULT 0,
    ADD COLUMN total integer NOT NULL DEFAULT 0,
    ADD COLUMN cancel_wanted boolean NOT NULL DEFAULT false,
    ADD COLUMN heard_at timestamptz,
    ADD COLUMN report jsonb NOT NULL DEFAULT '{}';

ALTER TABLE house_rule ADD COLUMN revision integer NOT NULL DEFAULT 1;
ALTER TABLE equipment_class ADD COLUMN version integer NOT NULL DEFAULT 1;
ALTER TABLE soil_kind ADD COLUMN version integer NOT NULL DEFAULT 1;
ALTER TABLE factor_def ADD COLUMN version integer NOT NULL DEFAULT 1;
ALTER TABLE method ADD COLUMN version integer NOT NULL DEFAULT 1;
ALTER TABLE cleaner ADD COLUMN version integer NOT NULL DEFAULT 1,
    ADD COLUMN ph double precision CHECK (ph BETWEEN 0 AND 14),
    ADD COLUMN pack_l double precision CHECK (pack_l > 0),
    ADD COLUMN pack_price numeric(12, 2) CHECK (pack_price >= 0),
    ADD COLUMN water_parts_from double precision CHECK (water_parts_from >= 0),
    ADD COLUMN water_parts_to double precision CHECK (water_parts_to >= water_parts_from),
    ADD COLUMN dwell_min_s integer CHECK (dwell_min_s >= 0),
    ADD COLUMN dwell_max_s integer CHECK (dwell_max_s >= dwell_min_s),
    ADD COLUMN rinse boolean NOT NULL DEFAULT true,
    ADD COLUMN microchannel boolean NOT NULL DEFAULT true,
    ADD COLUMN indoors boolean NOT NULL DEFAULT true,
    ADD COLUMN near_food boolean NOT NULL DEFAULT false,
    ADD COLUMN protection text NOT NULL DEFAULT '';

CREATE TABLE sprayer_setting (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    code            text NOT NULL,
    sprayer         text NOT NULL,
    name            text NOT NULL,
    water_parts     double precision NOT NULL CHECK (water_parts >= 0),
    position        integer NOT NULL,
    evidence        text NOT NULL CHECK (evidence IN ('published', 'common_practice', 'assumption')),
    source          text NOT NULL,
    from_memory     boolean NOT NULL DEFAULT false,
    default_version integer NOT NULL DEFAULT 1,
    version         integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, code)
);

CREATE TABLE rate (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    code            text NOT NULL,
    name            text NOT NULL,
    unit            text NOT NULL,
    amount          double precision NOT NULL CHECK (amount >= 0),
    position        integer NOT NULL,
    evidence        text NOT NULL CHECK (evidence IN ('published', 'common_practice', 'assumption')),
    source          text NOT NULL,
    from_memory     boolean NOT NULL DEFAULT false,
    default_version integer NOT NULL DEFAULT 1,
    version         integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, code)
);

CREATE INDEX audit_at ON audit (organisation_id, at DESC, id);

-- +goose Down
DROP INDEX audit_at;
DROP TABLE rate, sprayer_setting;
ALTER TABLE cleaner DROP COLUMN version, DROP COLUMN ph, DROP COLUMN pack_l, DROP COLUMN pack_price, DROP COLUMN water_parts_from,
    DROP COLUMN water_parts_to, DROP COLUMN dwell_min_s, DROP COLUMN dwell_max_s, DROP COLUMN rinse, DROP COLUMN microchannel,
    DROP COLUMN indoors, DROP COLUMN near_food, DROP COLUMN protection;
ALTER TABLE method DROP COLUMN version;
ALTER TABLE factor_def DROP COLUMN version;
ALTER TABLE soil_kind DROP COLUMN version;
ALTER TABLE equipment_class DROP COLUMN version;
ALTER TABLE house_rule DROP COLUMN revision;
DELETE FROM import_run WHERE status <> 'stored' OR kind <> 'register';
ALTER TABLE import_run DROP COLUMN kind, DROP COLUMN status, DROP COLUMN step, DROP COLUMN done, DROP COLUMN total,
    DROP COLUMN cancel_wanted, DROP COLUMN heard_at, DROP COLUMN report;
DROP TABLE import_mapping, attachment, bulk_change;
DROP INDEX visit_supersedes;
ALTER TABLE visit DROP COLUMN status_reason;
