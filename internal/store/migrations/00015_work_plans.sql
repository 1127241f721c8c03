-- +goose Up

-- What a cleaner does on a coil: foam stays off sealed refrigeration, and disinfecting is for biofilm. What came with the product is
-- known; an organisation's own are asked for.
ALTER TABLE cleaner ADD COLUMN foams boolean NOT NULL DEFAULT false, ADD COLUMN disinfects boolean NOT NULL DEFAULT false;
UPDATE cleaner SET foams = true WHERE code IN ('foaming_disinfecting', 'medium_universal', 'heavy_alkaline', 'extra_heavy_alkaline', 'foaming_aerosol');
UPDATE cleaner SET disinfects = true WHERE code = 'foaming_disinfecting';

-- A plan is passes in their order (seq); some are done where the coil was carried to.
ALTER TABLE treatment ADD COLUMN taken_out boolean NOT NULL DEFAULT false;

-- +goose Down
ALTER TABLE treatment DROP COLUMN taken_out;
ALTER TABLE cleaner DROP COLUMN foams, DROP COLUMN disinfects;
