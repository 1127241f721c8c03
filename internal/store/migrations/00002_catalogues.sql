-- Catalogues, copied into each organisation when it is made. Every row says how well it is founded.

-- +goose Up
CREATE TABLE equipment_class (
    organisation_id     uuid NOT NULL REFERENCES organisation (id),
    id                  uuid NOT NULL,
    code                text NOT NULL,
    name                text NOT NULL,
    reference_days      double precision NOT NULL CHECK (reference_days > 0),
    reference_fan_share double precision NOT NULL DEFAULT 1 CHECK (reference_fan_share > 0 AND reference_fan_share <= 1),
    light_days          integer CHECK (light_days > 0),
    deep_days           integer NOT NULL CHECK (deep_days > 0),
    max_days            integer NOT NULL CHECK (max_days > 0),
    light_minutes       integer NOT NULL CHECK (light_minutes > 0),
    deep_minutes        integer NOT NULL CHECK (deep_minutes > 0),
    usual_soil          text NOT NULL,
    position            integer NOT NULL,
    evidence            text NOT NULL CHECK (evidence IN ('published', 'common_practice', 'assumption')),
    source              text NOT NULL,
    from_memory         boolean NOT NULL DEFAULT false,
    default_version     integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, code)
);

-- The sides a coil of the class gets when it enters the register.
CREATE TABLE class_side (
    organisation_id uuid NOT NULL,
    class_id        uuid NOT NULL,
    coil_role       text NOT NULL CHECK (coil_role IN ('condenser', 'evaporator', 'outdoor', 'back')),
    position        integer NOT NULL,
    name            text NOT NULL,
    area_share      double precision NOT NULL CHECK (area_share > 0 AND area_share <= 1),
    PRIMARY KEY (organisation_id, class_id, coil_role, position),
    FOREIGN KEY (organisation_id, class_id) REFERENCES equipment_class (organisation_id, id)
);

CREATE TABLE soil_kind (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    code            text NOT NULL,
    name            text NOT NULL,
    family          text NOT NULL CHECK (family IN ('dust_like', 'grease_like', 'mixed')),
    penetration     double precision NOT NULL CHECK (penetration BETWEEN 0 AND 1),
    month_weights   double precision[] NOT NULL CHECK (cardinality(month_weights) = 12),
    position        integer NOT NULL,
    evidence        text NOT NULL CHECK (evidence IN ('published', 'common_practice', 'assumption')),
    source          text NOT NULL,
    from_memory     boolean NOT NULL DEFAULT false,
    default_version integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, code)
);

CREATE TABLE factor_def (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    code            text NOT NULL,
    name            text NOT NULL,
    multiplier      double precision NOT NULL CHECK (multiplier > 0),
    month_weights   double precision[] CHECK (cardinality(month_weights) = 12),
    soil_code       text,
    position        integer NOT NULL,
    evidence        text NOT NULL CHECK (evidence IN ('published', 'common_practice', 'assumption')),
    source          text NOT NULL,
    from_memory     boolean NOT NULL DEFAULT false,
    default_version integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, code)
);

CREATE TABLE method (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    code            text NOT NULL,
    name            text NOT NULL,
    driven          boolean NOT NULL,
    wet             boolean NOT NULL,
    position        integer NOT NULL,
    evidence        text NOT NULL CHECK (evidence IN ('published', 'common_practice', 'assumption')),
    source          text NOT NULL,
    from_memory     boolean NOT NULL DEFAULT false,
    default_version integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, code)
);

CREATE TABLE method_removal (
    organisation_id uuid NOT NULL,
    method_id       uuid NOT NULL,
    family          text NOT NULL CHECK (family IN ('dust_like', 'grease_like')),
    face_share      double precision NOT NULL CHECK (face_share BETWEEN 0 AND 1),
    core_share      double precision NOT NULL CHECK (core_share BETWEEN 0 AND 1),
    PRIMARY KEY (organisation_id, method_id, family),
    FOREIGN KEY (organisation_id, method_id) REFERENCES method (organisation_id, id)
);

CREATE TABLE cleaner (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    code            text NOT NULL,
    name            text NOT NULL,
    form            text NOT NULL CHECK (form IN ('none', 'concentrate', 'ready_to_use', 'aerosol')),
    caution         text NOT NULL,
    position        integer NOT NULL,
    evidence        text NOT NULL CHECK (evidence IN ('published', 'common_practice', 'assumption')),
    source          text NOT NULL,
    from_memory     boolean NOT NULL DEFAULT false,
    default_version integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, code)
);

CREATE TABLE house_rule (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    question        text NOT NULL,
    choice          jsonb NOT NULL,
    reason          text NOT NULL,
    valid           daterange NOT NULL,
    PRIMARY KEY (organisation_id, id),
    EXCLUDE USING gist (organisation_id WITH =, question WITH =, valid WITH &&)
);

-- +goose Down
DROP TABLE house_rule, cleaner, method_removal, method, factor_def, soil_kind, class_side, equipment_class;
