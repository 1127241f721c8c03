-- +goose Up

-- What a cleaner does on a coil: foam stays off sealed refrigeration, and disinfecting is for biofilm. What came with the product is
-- known; an organisation's own are asked for.
ALTER TABLE cleaner ADD COLUMN foams boolean NOT NULL DEFAULT false, ADD COLUMN disinfects boolean NOT NULL DEFAULT false;
UPDATE cleaner SET foams = true WHERE code IN ('foaming_disinfecting', 'medium_universal', 'heavy_alkaline', 'extra_heavy_alkaline', 'foaming_aerosol');
UPDATE cleaner SET disinfects = true WHERE code = 'foaming_disinfecting';

-- A plan is passes in their order (seq); some are done where the coil was carried to.
ALTER TABLE treatment ADD COLUMN taken_out boolean NOT NULL DEFAULT false,
    ADD COLUMN after_grade integer CHECK (after_grade BETWEEN 0 AND 5), -- a look between this pass and the next
    ADD COLUMN after_seen text CHECK (after_seen IN ('face_look', 'light_through', 'wiped_more_below')),
    ADD CHECK ((after_grade IS NULL) = (after_seen IS NULL));

-- What plans of several passes take away, from the pairs of found and left in which the passes were not seen apart.
CREATE TABLE plan_estimate (
    organisation_id uuid NOT NULL,
    plan            text NOT NULL, -- methods by code in their order
    family          text NOT NULL CHECK (family IN ('dust_like', 'grease_like')),
    face_share      double precision NOT NULL CHECK (face_share BETWEEN 0 AND 1),
    core_share      double precision NOT NULL CHECK (core_share BETWEEN 0 AND 1),
    face_pairs      integer NOT NULL,
    core_pairs      integer NOT NULL,
    model_version   text NOT NULL,
    computed_at     timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, plan, family),
    FOREIGN KEY (organisation_id) REFERENCES organisation (id)
);

-- What a visit was for: the kinds of job.
ALTER TABLE visit ADD COLUMN jobs text[] NOT NULL DEFAULT '{}';

-- Surfaces of the unit beside its coils, as a visit found and left them.
CREATE TABLE part_look (
    organisation_id uuid NOT NULL,
    visit_id        uuid NOT NULL,
    part            text NOT NULL CHECK (part IN ('wheel', 'blades', 'tray', 'base', 'trough', 'filter', 'grille')),
    seen            text NOT NULL CHECK (seen IN ('face_look', 'light_through', 'wiped_more_below')),
    grade           integer NOT NULL CHECK (grade BETWEEN 0 AND 5),
    left_grade      integer CHECK (left_grade BETWEEN 0 AND 5),
    PRIMARY KEY (organisation_id, visit_id, part),
    FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id)
);

-- A companion clock that a step of a visit ticked; it goes with the visit.
ALTER TABLE task_tick ADD COLUMN visit_id uuid, ADD FOREIGN KEY (organisation_id, visit_id) REFERENCES visit (organisation_id, id);

-- +goose Down
ALTER TABLE task_tick DROP COLUMN visit_id;
DROP TABLE part_look, plan_estimate;
ALTER TABLE visit DROP COLUMN jobs;
ALTER TABLE treatment DROP COLUMN taken_out, DROP COLUMN after_grade, DROP COLUMN after_seen;
ALTER TABLE cleaner DROP COLUMN foams, DROP COLUMN disinfects;
