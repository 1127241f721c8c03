-- +goose Up

-- How a clean is to be done from now on: the passes that were accepted with a program; empty where it is done as it was last.
ALTER TABLE task ADD COLUMN plan jsonb;

-- The days of the year it is done on, 0 is 1 January, where they are part of the program.
ALTER TABLE task ADD COLUMN year_days integer[] CHECK (cardinality(year_days) BETWEEN 1 AND 12);

-- What was proposed beside an interval: plan, first clean, light clean in between, and what they cost; empty where the interval alone was.
ALTER TABLE proposal ADD COLUMN program jsonb;

-- In which months a unit works: by its class, with the climate of its site or twelve figures of the site's own.
ALTER TABLE equipment_class ADD COLUMN load text NOT NULL DEFAULT 'even' CHECK (load IN ('even', 'cooling', 'heating', 'both'));
UPDATE equipment_class SET load = 'cooling' WHERE code IN ('outdoor_condensing', 'wall_unit', 'cassette', 'through_wall', 'air_handler');
UPDATE equipment_class SET load = 'both' WHERE code = 'packaged_unit';
ALTER TABLE site
    ADD COLUMN climate text CHECK (length(climate) <= 40),
    ADD COLUMN load_months double precision[] CHECK (cardinality(load_months) = 12);

-- +goose Down
ALTER TABLE site DROP COLUMN load_months, DROP COLUMN climate;
ALTER TABLE equipment_class DROP COLUMN load;
ALTER TABLE proposal DROP COLUMN program;
ALTER TABLE task DROP COLUMN year_days, DROP COLUMN plan;
