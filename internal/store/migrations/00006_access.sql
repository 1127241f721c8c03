-- Who may see which sites, how people are invited, and what guards the sign-in.

-- +goose Up
ALTER TABLE account ADD COLUMN units text CHECK (units IN ('metric', 'us')),
    ADD COLUMN theme text NOT NULL DEFAULT 'auto' CHECK (theme IN ('auto', 'light', 'dark'));

ALTER TABLE membership ADD COLUMN all_sites boolean NOT NULL DEFAULT true,
    ADD COLUMN version integer NOT NULL DEFAULT 1;

-- The link that lets somebody choose a first or a new password; only its hash is kept.
CREATE TABLE account_token (
    id              uuid PRIMARY KEY,
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    account_id      uuid NOT NULL REFERENCES account (id),
    kind            text NOT NULL CHECK (kind IN ('invite', 'reset')),
    token_hash      text NOT NULL UNIQUE,
    expires_at      timestamptz NOT NULL,
    used_at         timestamptz,
    created_by      uuid REFERENCES account (id),
    created_at      timestamptz NOT NULL
);
CREATE INDEX account_token_account ON account_token (account_id);

CREATE TABLE sign_in_attempt (
    id      uuid PRIMARY KEY,
    login   text NOT NULL,
    address text NOT NULL,
    at      timestamptz NOT NULL
);
CREATE INDEX sign_in_attempt_login ON sign_in_attempt (login, at);
CREATE INDEX sign_in_attempt_address ON sign_in_attempt (address, at);

-- +goose Down
DROP TABLE sign_in_attempt, account_token;
ALTER TABLE membership DROP COLUMN all_sites, DROP COLUMN version;
ALTER TABLE account DROP COLUMN units, DROP COLUMN theme;
