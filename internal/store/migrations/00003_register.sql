-- Where and what: sites, placements, units, coils, their sides, and the factors that soil them.

-- +goose Up
CREATE TABLE site (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    name            text NOT NULL CHECK (name <> ''),
    zone            text NOT NULL,
    address         text NOT NULL DEFAULT '',
    contact         text NOT NULL DEFAULT '',
    access_note     text NOT NULL DEFAULT '',
    lat             double precision CHECK (lat BETWEEN -90 AND 90),
    lon             double precision CHECK (lon BETWEEN -180 AND 180),
    version         integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, name)
);

CREATE TABLE site_window (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    site_id         uuid NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('open', 'allowed', 'quiet', 'blackout')),
    weekdays        integer[] NOT NULL CHECK (weekdays <@ ARRAY[0, 1, 2, 3, 4, 5, 6]),
    starts          time NOT NULL,
    ends            time NOT NULL,
    valid           daterange NOT NULL DEFAULT daterange(NULL, NULL),
    note            text NOT NULL DEFAULT '',
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id)
);
CREATE INDEX site_window_site ON site_window (organisation_id, site_id);

CREATE TABLE placement (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    site_id         uuid NOT NULL,
    name            text NOT NULL CHECK (name <> ''),
    setting         text NOT NULL DEFAULT 'unstated' CHECK (setting IN ('unstated', 'indoor', 'outdoor', 'roof', 'plant_room')),
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, site_id, name),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id)
);

CREATE TABLE unit (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    tag             text NOT NULL CHECK (tag <> ''),
    class_id        uuid NOT NULL,
    make            text NOT NULL DEFAULT '',
    model           text NOT NULL DEFAULT '',
    status          text NOT NULL DEFAULT 'in_service' CHECK (status IN ('planned', 'in_service', 'out_of_service', 'retired')),
    commissioned    date,
    note            text NOT NULL DEFAULT '',
    version         integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, tag),
    FOREIGN KEY (organisation_id, class_id) REFERENCES equipment_class (organisation_id, id)
);

CREATE TABLE unit_stay (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    unit_id         uuid NOT NULL,
    placement_id    uuid NOT NULL,
    during          daterange NOT NULL,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    FOREIGN KEY (organisation_id, placement_id) REFERENCES placement (organisation_id, id),
    EXCLUDE USING gist (organisation_id WITH =, unit_id WITH =, during WITH &&)
);
CREATE INDEX unit_stay_placement ON unit_stay (organisation_id, placement_id);

CREATE TABLE coil (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    unit_id         uuid NOT NULL,
    role            text NOT NULL CHECK (role IN ('condenser', 'evaporator', 'outdoor', 'back')),
    -- Where the side histories begin: commissioning or a documented deep clean.
    start_quality   text NOT NULL CHECK (start_quality IN ('exact', 'about', 'never', 'unknown')),
    start_day       date,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, unit_id, role),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    CHECK ((start_quality IN ('exact', 'about')) = (start_day IS NOT NULL) OR start_quality = 'never')
);

CREATE TABLE surface (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    coil_id         uuid NOT NULL,
    name            text NOT NULL,
    position        integer NOT NULL,
    area_share      double precision NOT NULL CHECK (area_share > 0 AND area_share <= 1),
    access_note     text NOT NULL DEFAULT '',
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, coil_id, name),
    FOREIGN KEY (organisation_id, coil_id) REFERENCES coil (organisation_id, id)
);

CREATE TABLE site_factor (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    factor_id       uuid NOT NULL,
    site_id         uuid,
    placement_id    uuid,
    unit_id         uuid,
    valid           daterange NOT NULL CHECK (NOT isempty(valid)),
    note            text NOT NULL DEFAULT '',
    PRIMARY KEY (organisation_id, id),
    CHECK (num_nonnulls(site_id, placement_id, unit_id) = 1),
    FOREIGN KEY (organisation_id, factor_id) REFERENCES factor_def (organisation_id, id),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id),
    FOREIGN KEY (organisation_id, placement_id) REFERENCES placement (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    EXCLUDE USING gist (organisation_id WITH =, factor_id WITH =,
        coalesce(site_id, placement_id, unit_id) WITH =, valid WITH &&)
);

CREATE TABLE task (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    unit_id         uuid NOT NULL,
    coil_id         uuid NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('light', 'deep')),
    every_days      integer NOT NULL CHECK (every_days > 0),
    version         integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, coil_id, kind),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    FOREIGN KEY (organisation_id, coil_id) REFERENCES coil (organisation_id, id)
);
CREATE INDEX task_unit ON task (organisation_id, unit_id);

-- The sides a task covers, with the last clean known before the first recorded visit.
CREATE TABLE task_surface (
    organisation_id uuid NOT NULL,
    task_id         uuid NOT NULL,
    surface_id      uuid NOT NULL,
    last_day        date,
    last_quality    text NOT NULL CHECK (last_quality IN ('exact', 'about', 'never', 'unknown')),
    PRIMARY KEY (organisation_id, task_id, surface_id),
    FOREIGN KEY (organisation_id, task_id) REFERENCES task (organisation_id, id),
    FOREIGN KEY (organisation_id, surface_id) REFERENCES surface (organisation_id, id)
);

CREATE TABLE import_run (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    at              timestamptz NOT NULL,
    account_id      uuid NOT NULL REFERENCES account (id),
    file_name       text NOT NULL,
    file_hash       text NOT NULL,
    rows            integer NOT NULL,
    PRIMARY KEY (organisation_id, id)
);

-- +goose Down
DROP TABLE import_run, task_surface, task, site_factor, surface, coil, unit_stay, unit, placement, site_window, site;
