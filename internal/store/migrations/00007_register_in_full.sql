-- The register in full: what is known of sites, placements, units, coils and surfaces, and the companion clocks.

-- +goose Up
CREATE TABLE membership_site (
    organisation_id uuid NOT NULL,
    membership_id   uuid NOT NULL,
    site_id         uuid NOT NULL,
    PRIMARY KEY (organisation_id, membership_id, site_id),
    FOREIGN KEY (organisation_id, membership_id) REFERENCES membership (organisation_id, id),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id)
);

ALTER TABLE site ADD COLUMN code text NOT NULL DEFAULT '',
    ADD COLUMN status text NOT NULL DEFAULT 'open' CHECK (status IN ('open', 'closed')),
    ADD COLUMN altitude_m double precision,
    ADD COLUMN phone text NOT NULL DEFAULT '',
    ADD COLUMN keys text NOT NULL DEFAULT '',
    ADD COLUMN water text NOT NULL DEFAULT '',
    ADD COLUMN power text NOT NULL DEFAULT '';

CREATE TABLE holiday (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    site_id         uuid NOT NULL,
    day             date NOT NULL,
    name            text NOT NULL,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, site_id, day),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id)
);

ALTER TABLE placement ADD COLUMN near_food boolean NOT NULL DEFAULT false,
    ADD COLUMN occupied boolean NOT NULL DEFAULT false,
    ADD COLUMN wall_backed boolean NOT NULL DEFAULT false,
    ADD COLUMN height_m double precision CHECK (height_m BETWEEN 0 AND 200),
    ADD COLUMN drain text NOT NULL DEFAULT '';

ALTER TABLE unit ADD COLUMN placement_id uuid,
    ADD COLUMN serial text NOT NULL DEFAULT '',
    ADD COLUMN year integer CHECK (year BETWEEN 1900 AND 2200),
    ADD COLUMN refrigerant text NOT NULL DEFAULT '',
    ADD COLUMN charge_kg double precision CHECK (charge_kg > 0),
    ADD COLUMN capacity_kw double precision CHECK (capacity_kw > 0),
    ADD COLUMN volts double precision CHECK (volts > 0),
    ADD COLUMN amps double precision CHECK (amps > 0),
    ADD COLUMN energy_kwh_day double precision CHECK (energy_kwh_day >= 0),
    ADD COLUMN consequence_cost numeric(12, 2) CHECK (consequence_cost >= 0),
    ADD COLUMN retired date,
    ADD COLUMN replaced_by uuid,
    ADD COLUMN label_code text,
    ADD FOREIGN KEY (organisation_id, replaced_by) REFERENCES unit (organisation_id, id);
-- Where the unit stands now: the placement of its last stay, kept beside it because every list asks for it.
UPDATE unit u SET placement_id = (
    SELECT s.placement_id FROM unit_stay s WHERE s.organisation_id = u.organisation_id AND s.unit_id = u.id
    ORDER BY lower(s.during) DESC NULLS LAST LIMIT 1),
    label_code = replace(gen_random_uuid()::text, '-', '');
ALTER TABLE unit ALTER COLUMN placement_id SET NOT NULL,
    ALTER COLUMN label_code SET NOT NULL,
    ADD UNIQUE (label_code),
    ADD FOREIGN KEY (organisation_id, placement_id) REFERENCES placement (organisation_id, id);
CREATE INDEX unit_placement ON unit (organisation_id, placement_id);

-- While a unit is out of service nothing is blown through it: exposure stands still.
CREATE TABLE unit_pause (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    unit_id         uuid NOT NULL,
    during          daterange NOT NULL CHECK (NOT isempty(during)),
    reason          text NOT NULL,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    EXCLUDE USING gist (organisation_id WITH =, unit_id WITH =, during WITH &&)
);

ALTER TABLE coil ADD COLUMN construction text NOT NULL DEFAULT 'unstated'
        CHECK (construction IN ('unstated', 'tube_fin', 'microchannel', 'tube_grid', 'rolled')),
    ADD COLUMN slabs integer NOT NULL DEFAULT 1 CHECK (slabs BETWEEN 1 AND 6),
    ADD COLUMN tube_rows integer CHECK (tube_rows BETWEEN 1 AND 20),
    ADD COLUMN face_width_m double precision CHECK (face_width_m > 0),
    ADD COLUMN face_height_m double precision CHECK (face_height_m > 0),
    ADD COLUMN fin_metal text NOT NULL DEFAULT 'unstated' CHECK (fin_metal IN ('unstated', 'aluminium', 'copper', 'steel')),
    ADD COLUMN tube_metal text NOT NULL DEFAULT 'unstated' CHECK (tube_metal IN ('unstated', 'copper', 'aluminium', 'steel')),
    ADD COLUMN coating text NOT NULL DEFAULT '',
    ADD COLUMN installed date,
    ADD COLUMN removed date;

-- A surface belongs to a coil (a side, the gap between slabs) or to the unit (wheel, grille, tray, base, trough, filter).
ALTER TABLE surface ALTER COLUMN coil_id DROP NOT NULL,
    ADD COLUMN unit_id uuid,
    ADD COLUMN kind text NOT NULL DEFAULT 'side'
        CHECK (kind IN ('side', 'slab_gap', 'wheel', 'grille', 'tray', 'base', 'trough', 'filter')),
    ADD COLUMN area_m2 double precision CHECK (area_m2 > 0),
    ADD COLUMN map_rows integer CHECK (map_rows BETWEEN 1 AND 12),
    ADD COLUMN map_columns integer CHECK (map_columns BETWEEN 1 AND 12),
    ADD COLUMN reachable boolean NOT NULL DEFAULT true,
    ADD COLUMN why_not text NOT NULL DEFAULT '',
    ADD CHECK (num_nonnulls(coil_id, unit_id) = 1),
    ADD CHECK (reachable OR why_not <> ''),
    ADD FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    ADD UNIQUE (organisation_id, unit_id, name);

-- How a unit is got at. Effective-dated: what the sheet said last year can still be read.
CREATE TABLE unit_access (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    unit_id         uuid NOT NULL,
    isolation_point text NOT NULL DEFAULT '',
    isolation_kind  text NOT NULL DEFAULT 'unstated' CHECK (isolation_kind IN ('unstated', 'breaker', 'disconnect', 'plug')),
    panels          text NOT NULL DEFAULT '',
    fixings         text NOT NULL DEFAULT '',
    people          integer NOT NULL DEFAULT 1 CHECK (people BETWEEN 1 AND 6),
    ladder_m        double precision CHECK (ladder_m > 0),
    hazards         text NOT NULL DEFAULT '',
    valid           daterange NOT NULL CHECK (NOT isempty(valid)),
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    EXCLUDE USING gist (organisation_id WITH =, unit_id WITH =, valid WITH &&)
);

CREATE TABLE part (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    unit_id         uuid NOT NULL,
    kind            text NOT NULL,
    specification   text NOT NULL,
    quantity        integer NOT NULL DEFAULT 1 CHECK (quantity BETWEEN 1 AND 999),
    note            text NOT NULL DEFAULT '',
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id)
);
CREATE INDEX part_unit ON part (organisation_id, unit_id);

CREATE TABLE factor_event (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    site_id         uuid NOT NULL,
    kind            text NOT NULL,
    day             date NOT NULL,
    note            text NOT NULL DEFAULT '',
    account_id      uuid REFERENCES account (id),
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id)
);
CREATE INDEX factor_event_site ON factor_event (organisation_id, site_id, day);

-- The companion clocks a unit of a class gets beside light and deep.
CREATE TABLE class_task (
    organisation_id uuid NOT NULL,
    class_id        uuid NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('inspect', 'filter', 'grille', 'tablet', 'drain', 'pump')),
    every_days      integer NOT NULL CHECK (every_days > 0),
    doer            text NOT NULL CHECK (doer IN ('technician', 'site_staff', 'contractor')),
    PRIMARY KEY (organisation_id, class_id, kind),
    FOREIGN KEY (organisation_id, class_id) REFERENCES equipment_class (organisation_id, id)
);

ALTER TABLE task DROP CONSTRAINT task_kind_check;
ALTER TABLE task ALTER COLUMN coil_id DROP NOT NULL,
    ADD CONSTRAINT task_kind_check CHECK (kind IN ('light', 'deep', 'inspect', 'filter', 'grille', 'tablet', 'drain', 'pump')),
    ADD CONSTRAINT task_coil_check CHECK ((coil_id IS NOT NULL) = (kind IN ('light', 'deep'))),
    ADD COLUMN doer text NOT NULL DEFAULT 'technician' CHECK (doer IN ('technician', 'site_staff', 'contractor')),
    ADD COLUMN anchor_month integer CHECK (anchor_month BETWEEN 1 AND 12),
    ADD COLUMN paused boolean NOT NULL DEFAULT false,
    ADD COLUMN last_day date,
    ADD COLUMN last_quality text NOT NULL DEFAULT 'unknown' CHECK (last_quality IN ('exact', 'about', 'never', 'unknown'));
CREATE UNIQUE INDEX task_companion ON task (organisation_id, unit_id, kind) WHERE coil_id IS NULL;

-- A companion task that was done: a fact, voided but never changed.
CREATE TABLE task_tick (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    task_id         uuid NOT NULL,
    day             date NOT NULL,
    note            text NOT NULL DEFAULT '',
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, task_id) REFERENCES task (organisation_id, id)
);
CREATE INDEX task_tick_task ON task_tick (organisation_id, task_id, day);

-- +goose Down
DROP TABLE task_tick;
DELETE FROM task WHERE coil_id IS NULL;
DROP INDEX task_companion;
ALTER TABLE task DROP CONSTRAINT task_coil_check, DROP CONSTRAINT task_kind_check,
    DROP COLUMN doer, DROP COLUMN anchor_month, DROP COLUMN paused, DROP COLUMN last_day, DROP COLUMN last_quality;
ALTER TABLE task ALTER COLUMN coil_id SET NOT NULL, ADD CONSTRAINT task_kind_check CHECK (kind IN ('light', 'deep'));
DROP TABLE class_task, factor_event, part, unit_access;
DELETE FROM surface WHERE coil_id IS NULL;
ALTER TABLE surface DROP COLUMN unit_id, DROP COLUMN kind, DROP COLUMN area_m2, DROP COLUMN map_rows, DROP COLUMN map_columns,
    DROP COLUMN reachable, DROP COLUMN why_not;
ALTER TABLE surface ALTER COLUMN coil_id SET NOT NULL;
ALTER TABLE coil DROP COLUMN construction, DROP COLUMN slabs, DROP COLUMN tube_rows, DROP COLUMN face_width_m, DROP COLUMN face_height_m,
    DROP COLUMN fin_metal, DROP COLUMN tube_metal, DROP COLUMN coating, DROP COLUMN installed, DROP COLUMN removed;
DROP TABLE unit_pause;
ALTER TABLE unit DROP COLUMN placement_id, DROP COLUMN serial, DROP COLUMN year, DROP COLUMN refrigerant, DROP COLUMN charge_kg,
    DROP COLUMN capacity_kw, DROP COLUMN volts, DROP COLUMN amps, DROP COLUMN energy_kwh_day, DROP COLUMN consequence_cost,
    DROP COLUMN retired, DROP COLUMN replaced_by, DROP COLUMN label_code;
ALTER TABLE placement DROP COLUMN near_food, DROP COLUMN occupied, DROP COLUMN wall_backed, DROP COLUMN height_m, DROP COLUMN drain;
DROP TABLE holiday;
ALTER TABLE site DROP COLUMN code, DROP COLUMN status, DROP COLUMN altitude_m, DROP COLUMN phone, DROP COLUMN keys,
    DROP COLUMN water, DROP COLUMN power;
DROP TABLE membership_site;
