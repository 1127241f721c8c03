-- What the portfolio shows of each coil, derived from the facts so that one page is one query. Dropped and
-- recomputed at will.

-- +goose Up
CREATE TABLE coil_line (
    organisation_id uuid NOT NULL,
    coil_id         uuid NOT NULL,
    unit_id         uuid NOT NULL,
    site_id         uuid NOT NULL,
    placement_id    uuid NOT NULL,
    class_id        uuid NOT NULL,
    site_name       text NOT NULL,
    class_name      text NOT NULL,
    tag             text NOT NULL,
    status          text NOT NULL,
    role            text NOT NULL,
    due             date NOT NULL,
    blocked         double precision NOT NULL,
    proposed        boolean NOT NULL,
    line            jsonb NOT NULL,
    as_of           date NOT NULL,
    model_version   text NOT NULL,
    inputs_hash     text NOT NULL,
    computed_at     timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, coil_id),
    FOREIGN KEY (organisation_id, coil_id) REFERENCES coil (organisation_id, id)
);
CREATE INDEX coil_line_unit ON coil_line (organisation_id, unit_id);
CREATE INDEX coil_line_by_site ON coil_line (organisation_id, site_name, tag, coil_id);
CREATE INDEX coil_line_by_class ON coil_line (organisation_id, class_name, tag, coil_id);
CREATE INDEX coil_line_by_tag ON coil_line (organisation_id, tag, coil_id);
CREATE INDEX coil_line_by_due ON coil_line (organisation_id, due, coil_id);
CREATE INDEX coil_line_by_soil ON coil_line (organisation_id, blocked DESC, coil_id);

CREATE TABLE saved_filter (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    account_id      uuid NOT NULL REFERENCES account (id),
    name            text NOT NULL CHECK (name <> ''),
    query           text NOT NULL,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, account_id, name)
);

-- +goose Down
DROP TABLE saved_filter, coil_line;
