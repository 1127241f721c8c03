-- What was read out of codes and sentences becomes columns.

-- +goose Up

-- Traits of a class. What a class of the organisation's own has is answered on the house rules screen.
ALTER TABLE equipment_class
    ADD COLUMN plug_in              boolean NOT NULL DEFAULT false,
    ADD COLUMN holds_goods          boolean NOT NULL DEFAULT false,
    ADD COLUMN pan                  boolean NOT NULL DEFAULT false,
    ADD COLUMN movable              boolean NOT NULL DEFAULT false,
    ADD COLUMN base_trough          boolean NOT NULL DEFAULT false,
    ADD COLUMN wheel                boolean NOT NULL DEFAULT false,
    ADD COLUMN opens_electrics      boolean NOT NULL DEFAULT true,
    ADD COLUMN people               integer NOT NULL DEFAULT 1 CHECK (people BETWEEN 1 AND 6),
    ADD COLUMN usual_light          text NOT NULL DEFAULT 'brush_vacuum',
    ADD COLUMN usual_light_outdoors text NOT NULL DEFAULT 'closed_hose_down',
    ADD COLUMN usual_deep           text NOT NULL DEFAULT 'foam_rinse',
    ADD COLUMN usual_deep_air       text NOT NULL DEFAULT 'tank_sprayer';
COMMENT ON COLUMN equipment_class.usual_deep_air IS 'of the coil in the room''s air: the evaporator';
UPDATE equipment_class SET
    plug_in = code IN ('undercounter_cooler', 'display_cooler', 'reach_in', 'ice_machine'),
    holds_goods = code IN ('undercounter_cooler', 'display_cooler', 'reach_in', 'unit_cooler', 'remote_condenser'),
    pan = code IN ('cassette', 'wall_unit', 'air_handler', 'ceiling_room_cooler', 'through_wall', 'unit_cooler'),
    movable = code IN ('undercounter_cooler', 'display_cooler', 'reach_in', 'through_wall'),
    base_trough = code IN ('outdoor_condensing', 'packaged_unit', 'remote_condenser'),
    wheel = code IN ('wall_unit', 'air_handler'),
    opens_electrics = code NOT IN ('undercounter_cooler', 'display_cooler', 'reach_in', 'ice_machine'),
    people = CASE WHEN code = 'through_wall' THEN 2 ELSE 1 END,
    usual_deep = CASE WHEN code = 'display_cooler' THEN 'brush_vacuum' WHEN code IN ('undercounter_cooler', 'reach_in', 'ice_machine') THEN 'long_brush' ELSE 'foam_rinse' END,
    usual_deep_air = CASE WHEN code = 'display_cooler' THEN 'brush_vacuum' WHEN code IN ('undercounter_cooler', 'reach_in', 'ice_machine') THEN 'long_brush' ELSE 'tank_sprayer' END;

-- Minutes on site of what is no clean, by class and kind of job.
CREATE TABLE class_minutes (
    organisation_id uuid NOT NULL,
    class_id        uuid NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('inspect', 'filter', 'grille', 'tablet', 'drain', 'pump', 'recheck', 'look', 'symptom')),
    minutes         integer NOT NULL CHECK (minutes BETWEEN 1 AND 1440),
    PRIMARY KEY (organisation_id, class_id, kind),
    FOREIGN KEY (organisation_id, class_id) REFERENCES equipment_class (organisation_id, id)
);
INSERT INTO class_minutes (organisation_id, class_id, kind, minutes)
SELECT c.organisation_id, c.id, k.kind, k.minutes
FROM equipment_class c, (VALUES ('inspect', 20), ('filter', 15), ('grille', 10), ('tablet', 5), ('drain', 10), ('pump', 10), ('recheck', 10), ('look', 10), ('symptom', 30)) AS k (kind, minutes);

-- Whether the refrigerant burns: unknown counts as yes until it is answered (safety classes of ISO 817, from memory).
ALTER TABLE unit ADD COLUMN flammable text NOT NULL DEFAULT 'unknown' CHECK (flammable IN ('yes', 'no', 'unknown'));
UPDATE unit SET flammable = CASE
    WHEN code IN ('22', '123', '134a', '404a', '407a', '407c', '407f', '410a', '417a', '422d', '427a', '438a', '448a', '449a', '450a', '452a', '507', '507a', '513a', '744', 'co2', 'carbondioxide', '1233zd', '1336mzz') THEN 'no'
    WHEN code IN ('32', '50', '143a', '152a', '170', '290', '600', '600a', '717', '1150', '1270', '1234yf', '1234ze', '444b', '446a', '447b', '452b', '454a', '454b', '454c', '455a', '457a', '459a', '516a',
        'propane', 'propylene', 'propene', 'isobutane', 'butane', 'ethane', 'ethylene', 'methane', 'ammonia') THEN 'yes'
    ELSE 'unknown' END
FROM (SELECT organisation_id AS org, id AS of, regexp_replace(lower(regexp_replace(refrigerant, '[^[:alnum:]]', '', 'g')), '^(hfc|hcfc|hfo|hc|r)(?=[0-9])', '') AS code FROM unit) AS known
WHERE known.org = unit.organisation_id AND known.of = unit.id;

-- Water and drain: yes, no or not known; what is to be said of them stays as a note.
ALTER TABLE site RENAME COLUMN water TO water_note;
ALTER TABLE site ADD COLUMN water text NOT NULL DEFAULT 'unknown' CHECK (water IN ('yes', 'no', 'unknown'));
UPDATE site SET water = CASE WHEN water_note = '' THEN 'unknown' WHEN water_note ~* '^\s*(no|none)\M' THEN 'no' ELSE 'yes' END;
ALTER TABLE placement DROP CONSTRAINT placement_water_check;
ALTER TABLE placement ALTER COLUMN water SET DEFAULT 'unknown';
UPDATE placement SET water = 'unknown' WHERE water = 'unstated';
UPDATE placement p SET water = 'no' FROM site s
WHERE s.organisation_id = p.organisation_id AND s.id = p.site_id AND p.water = 'unknown'
    AND (p.setting = 'roof' AND s.water_note ~* 'none on' OR p.setting IN ('indoor', 'plant_room') AND s.water_note ~* 'none indoors');
ALTER TABLE placement ADD CONSTRAINT placement_water_check CHECK (water IN ('yes', 'no', 'unknown'));
ALTER TABLE placement RENAME COLUMN drain TO drain_note;
ALTER TABLE placement ADD COLUMN drain text NOT NULL DEFAULT 'unknown' CHECK (drain IN ('yes', 'no', 'unknown'));
UPDATE placement SET drain = CASE WHEN drain_note = '' THEN 'unknown' WHEN drain_note ~* '^\s*(no|none)\M' THEN 'no' ELSE 'yes' END;

-- Access in numbers.
ALTER TABLE unit_access RENAME COLUMN fixings TO fixings_note;
ALTER TABLE unit_access
    ADD COLUMN fixings integer NOT NULL DEFAULT 0 CHECK (fixings BETWEEN 0 AND 200),
    ADD COLUMN guards  integer NOT NULL DEFAULT 0 CHECK (guards BETWEEN 0 AND 20);
UPDATE unit_access SET
    fixings = least(200, coalesce(substring(fixings_note FROM '^\s*(\d{1,3})')::integer, 0)),
    guards = CASE WHEN (panels || ' ' || fixings_note) ~* 'guard' THEN 1 ELSE 0 END;

-- New defaults of a release, as they were answered.
CREATE TABLE catalogue_answer (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    catalogue       text NOT NULL CHECK (catalogue IN ('classes', 'soils', 'factors', 'methods', 'cleaners')),
    code            text NOT NULL,
    answer          text NOT NULL CHECK (answer IN ('accepted', 'refused')),
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, catalogue, code)
);

-- When a run in the background last gave a sign of life.
ALTER TABLE plan RENAME COLUMN heard_at TO alive_at;
ALTER TABLE import_run RENAME COLUMN heard_at TO alive_at;
ALTER TABLE estimation_run RENAME COLUMN heard_at TO alive_at;

-- The lines of a visit's facts are read by visit.
CREATE INDEX task_reset_visit ON task_reset (organisation_id, visit_id);

-- +goose Down
DROP INDEX task_reset_visit;
ALTER TABLE plan RENAME COLUMN alive_at TO heard_at;
ALTER TABLE import_run RENAME COLUMN alive_at TO heard_at;
ALTER TABLE estimation_run RENAME COLUMN alive_at TO heard_at;
DROP TABLE catalogue_answer;
ALTER TABLE unit_access DROP COLUMN fixings, DROP COLUMN guards;
ALTER TABLE unit_access RENAME COLUMN fixings_note TO fixings;
ALTER TABLE placement DROP COLUMN drain;
ALTER TABLE placement RENAME COLUMN drain_note TO drain;
ALTER TABLE placement DROP CONSTRAINT placement_water_check;
UPDATE placement SET water = 'unstated' WHERE water = 'unknown';
ALTER TABLE placement ALTER COLUMN water SET DEFAULT 'unstated', ADD CONSTRAINT placement_water_check CHECK (water IN ('unstated', 'yes', 'no'));
ALTER TABLE site DROP COLUMN water;
ALTER TABLE site RENAME COLUMN water_note TO water;
ALTER TABLE unit DROP COLUMN flammable;
DROP TABLE class_minutes;
ALTER TABLE equipment_class
    DROP COLUMN plug_in, DROP COLUMN holds_goods, DROP COLUMN pan, DROP COLUMN movable, DROP COLUMN base_trough, DROP COLUMN wheel,
    DROP COLUMN opens_electrics, DROP COLUMN people, DROP COLUMN usual_light, DROP COLUMN usual_light_outdoors, DROP COLUMN usual_deep,
    DROP COLUMN usual_deep_air;
