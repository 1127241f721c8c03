-- Who: organisations, accounts, people and what they may do; sessions and the records that guard every change.

-- +goose Up
CREATE EXTENSION IF NOT EXISTS btree_gist;

CREATE TABLE organisation (
    id         uuid PRIMARY KEY,
    name       text NOT NULL CHECK (name <> ''),
    zone       text NOT NULL,
    currency   char(3) NOT NULL,
    units      text NOT NULL DEFAULT 'metric' CHECK (units IN ('metric', 'us')),
    created_at timestamptz NOT NULL
);

CREATE TABLE account (
    id            uuid PRIMARY KEY,
    login         text NOT NULL UNIQUE CHECK (login = lower(login) AND login <> ''),
    password_hash text NOT NULL,
    disabled      boolean NOT NULL DEFAULT false,
    created_at    timestamptz NOT NULL
);

CREATE TABLE person (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    name            text NOT NULL CHECK (name <> ''),
    PRIMARY KEY (organisation_id, id)
);

CREATE TABLE membership (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    account_id      uuid NOT NULL REFERENCES account (id),
    person_id       uuid NOT NULL,
    role            text NOT NULL CHECK (role IN ('manager', 'technician', 'viewer')),
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, account_id),
    FOREIGN KEY (organisation_id, person_id) REFERENCES person (organisation_id, id)
);
CREATE INDEX membership_account ON membership (account_id);

-- The session store's own table.
CREATE TABLE sessions (
    token  text PRIMARY KEY,
    data   bytea NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);

CREATE TABLE audit (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    at              timestamptz NOT NULL,
    account_id      uuid REFERENCES account (id),
    entity          text NOT NULL,
    entity_id       uuid NOT NULL,
    action          text NOT NULL,
    detail          jsonb NOT NULL DEFAULT '{}',
    PRIMARY KEY (organisation_id, id)
);
CREATE INDEX audit_entity ON audit (organisation_id, entity, entity_id);

CREATE TABLE idempotency (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    account_id      uuid NOT NULL REFERENCES account (id),
    key             uuid NOT NULL,
    request_hash    text NOT NULL,
    answer          jsonb NOT NULL,
    created_at      timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, account_id, key)
);

-- +goose Down
DROP TABLE idempotency, audit, sessions, membership, person, account, organisation;
