-- +goose Up

-- What a cleaner does on a coil: foam stays off sealed refrigeration, and disinfecting is for biofilm. What came with the product is
-- known; an organisation's own are asked for.
ALTER TABLE cleaner ADD COLUMN foams boolean NOT NULL DEFAULT false, ADD COLUMN disinfects boolean NOT NULL DEFAULT false;
UPDATE cleaner SET foams = true WHERE code IN ('foaming_disinfecting', 'medium_universal', 'heavy_alkaline', 'extra_heavy_alkaline', 'foaming_aerosol');
UPDATE cleaner SET disinfects = true WHERE code = 'foaming_disinfecting';

-- A plan is passes in their order (seq); some are done where the coil was carried to.
ALTER TABLE treatment ADD COLUMN taken_out boolean NOT NULL DEFAULT false;

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
DROP TABLE part_look;
ALTER TABLE visit DROP COLUMN jobs;
ALTER TABLE treatment DROP COLUMN taken_out;
ALTER TABLE cleaner DROP COLUMN foams, DROP COLUMN disinfects;
