-- +goose Up

-- Where somebody is signed in: a line of its own for each session, so that it can be listed, found idle, and ended.
CREATE TABLE account_session (
    id         uuid PRIMARY KEY,
    account_id uuid NOT NULL REFERENCES account (id),
    began_at   timestamptz NOT NULL,
    seen_at    timestamptz NOT NULL,
    address    text NOT NULL,
    agent      text NOT NULL
);
CREATE INDEX account_session_account ON account_session (account_id);

-- Devices on which somebody has signed in before: what strangers guess elsewhere does not keep them out.
CREATE TABLE account_device (
    id         uuid PRIMARY KEY,
    account_id uuid NOT NULL REFERENCES account (id),
    token_hash text NOT NULL UNIQUE,
    at         timestamptz NOT NULL
);
CREATE INDEX account_device_account ON account_device (account_id);

-- A second factor: codes that change every half minute, and recovery codes that work once each. The last step used keeps a
-- code from working twice.
ALTER TABLE account
    ADD COLUMN factor_secret text NOT NULL DEFAULT '',
    ADD COLUMN factor_since timestamptz,
    ADD COLUMN factor_step bigint NOT NULL DEFAULT 0;
CREATE TABLE account_recovery (
    id         uuid PRIMARY KEY,
    account_id uuid NOT NULL REFERENCES account (id),
    code_hash  text NOT NULL,
    used_at    timestamptz
);
CREATE INDEX account_recovery_account ON account_recovery (account_id);
ALTER TABLE organisation ADD COLUMN factor_roles text[] NOT NULL DEFAULT '{}';

-- Sign-ins are counted by login and address together.
CREATE INDEX sign_in_attempt_together ON sign_in_attempt (login, address, at);

-- A mail is claimed before it is handed over, so that two servers never send it both. What a server that died had in hand may
-- have been sent: it is not sent again by itself.
ALTER TABLE mail_out DROP CONSTRAINT mail_out_status_check;
ALTER TABLE mail_out
    ADD CONSTRAINT mail_out_status_check CHECK (status IN ('waiting', 'sending', 'sent', 'failed', 'unknown')),
    ADD COLUMN claimed_at timestamptz;

-- Sessions are found by the hash of their token from now on; everybody signs in once more.
DELETE FROM sessions;

-- +goose Down
UPDATE mail_out SET status = 'failed' WHERE status IN ('sending', 'unknown');
ALTER TABLE mail_out DROP COLUMN claimed_at;
ALTER TABLE mail_out DROP CONSTRAINT mail_out_status_check;
ALTER TABLE mail_out ADD CONSTRAINT mail_out_status_check CHECK (status IN ('waiting', 'sent', 'failed'));
DROP INDEX sign_in_attempt_together;
ALTER TABLE organisation DROP COLUMN factor_roles;
DROP TABLE account_recovery;
ALTER TABLE account DROP COLUMN factor_secret, DROP COLUMN factor_since, DROP COLUMN factor_step;
DROP TABLE account_device, account_session;
