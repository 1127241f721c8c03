-- What was found, done and left. Facts: never updated in place.

-- +goose Up
CREATE TABLE visit (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    unit_id         uuid NOT NULL,
    day             date NOT NULL,
    outcome         text NOT NULL CHECK (outcome IN ('done', 'partly', 'no_access', 'refused', 'weather', 'unsafe', 'not_found')),
    status          text NOT NULL DEFAULT 'submitted' CHECK (status IN ('submitted', 'amended', 'voided')),
    supersedes      uuid,
    cautions_read   boolean NOT NULL DEFAULT false,
    note            text NOT NULL DEFAULT '',
    account_id      uuid REFERENCES account (id),
    submitted_at    timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id),
    FOREIGN KEY (organisation_id, supersedes) REFERENCES visit (organisation_id, id)
);
CREATE INDEX visit_unit_day ON visit (organisation_id, unit_id, day);
CREATE INDEX visit_day ON visit (organisation_id, day, id);

CREATE TABLE visit_person (
    organisation_id uuid NOT NULL,
    visit_id        uuid NOT NULL,
    person_id       uuid NOT NULL,
    minutes         integer NOT NULL CHECK (minutes BETWEEN 1 AND 1440),
    PRIMARY KEY (organisation_id, visit_id, person_id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id),
    FOREIGN KEY (organisation_id, person_id) REFERENCES person (organisation_id, id)
);

CREATE TABLE finding (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    visit_id        uuid NOT NULL,
    surface_id      uuid NOT NULL,
    phase           text NOT NULL CHECK (phase IN ('first_look', 'opened_up', 'as_left')),
    seen            text NOT NULL CHECK (seen IN ('face_look', 'light_through', 'wiped_more_below')),
    grade           integer NOT NULL CHECK (grade BETWEEN 0 AND 5),
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, visit_id, surface_id, phase),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id),
    FOREIGN KEY (organisation_id, surface_id) REFERENCES surface (organisation_id, id)
);

CREATE TABLE finding_soil (
    organisation_id uuid NOT NULL,
    finding_id      uuid NOT NULL,
    soil_id         uuid NOT NULL,
    PRIMARY KEY (organisation_id, finding_id, soil_id),
    FOREIGN KEY (organisation_id, finding_id) REFERENCES finding (organisation_id, id),
    FOREIGN KEY (organisation_id, soil_id) REFERENCES soil_kind (organisation_id, id)
);

CREATE TABLE treatment (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    visit_id        uuid NOT NULL,
    coil_id         uuid NOT NULL,
    seq             integer NOT NULL,
    work            text NOT NULL CHECK (work IN ('light', 'deep')),
    method_id       uuid NOT NULL,
    direction       text NOT NULL CHECK (direction IN ('against_airflow', 'with_airflow', 'along_fins', 'downward_closed')),
    cleaner_id      uuid,
    -- Parts of water to one part of cleaner; null when nothing was mixed.
    water_parts     double precision CHECK (water_parts >= 0),
    -- Cleaner drawn, before mixing. What was typed and its unit stay beside the litres.
    amount_l        double precision CHECK (amount_l > 0),
    amount_typed    text NOT NULL DEFAULT '',
    end_points      text[] NOT NULL DEFAULT '{}',
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, visit_id, coil_id, seq),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id),
    FOREIGN KEY (organisation_id, coil_id) REFERENCES coil (organisation_id, id),
    FOREIGN KEY (organisation_id, method_id) REFERENCES method (organisation_id, id),
    FOREIGN KEY (organisation_id, cleaner_id) REFERENCES cleaner (organisation_id, id)
);

-- Every side of a visited coil: reached, or why not.
CREATE TABLE visit_surface (
    organisation_id uuid NOT NULL,
    visit_id        uuid NOT NULL,
    surface_id      uuid NOT NULL,
    reached         boolean NOT NULL,
    why_not         text NOT NULL DEFAULT '',
    PRIMARY KEY (organisation_id, visit_id, surface_id),
    CHECK (reached OR why_not <> ''),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id),
    FOREIGN KEY (organisation_id, surface_id) REFERENCES surface (organisation_id, id)
);

CREATE TABLE treatment_surface (
    organisation_id uuid NOT NULL,
    treatment_id    uuid NOT NULL,
    surface_id      uuid NOT NULL,
    PRIMARY KEY (organisation_id, treatment_id, surface_id),
    FOREIGN KEY (organisation_id, treatment_id) REFERENCES treatment (organisation_id, id),
    FOREIGN KEY (organisation_id, surface_id) REFERENCES surface (organisation_id, id)
);

CREATE TABLE task_reset (
    organisation_id uuid NOT NULL,
    task_id         uuid NOT NULL,
    surface_id      uuid NOT NULL,
    visit_id        uuid NOT NULL,
    PRIMARY KEY (organisation_id, task_id, surface_id, visit_id),
    FOREIGN KEY (organisation_id, task_id, surface_id) REFERENCES task_surface (organisation_id, task_id, surface_id),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);

-- +goose Down
DROP TABLE task_reset, treatment_surface, visit_surface, treatment, finding_soil, finding, visit_person, visit;
