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

-- The audit trail is a chain: each row is sealed with the hash of the one before it, soon after it was written, and the number and
-- hash of the last are kept apart. Rows are neither changed nor removed.
ALTER TABLE audit ADD COLUMN seal_no bigint, ADD COLUMN seal text;
CREATE UNIQUE INDEX audit_seal ON audit (organisation_id, seal_no);
CREATE INDEX audit_unsealed ON audit (organisation_id, at, id) WHERE seal_no IS NULL;
ALTER TABLE organisation ADD COLUMN audit_sealed bigint NOT NULL DEFAULT 0, ADD COLUMN audit_seal text NOT NULL DEFAULT '';
-- +goose StatementBegin
CREATE FUNCTION audit_is_kept() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'UPDATE' AND OLD.seal_no IS NULL AND to_jsonb(OLD) - 'seal_no' - 'seal' = to_jsonb(NEW) - 'seal_no' - 'seal' THEN
        RETURN NEW;
    END IF;
    RAISE EXCEPTION 'rows of the audit trail are neither changed nor removed';
END $$;
-- +goose StatementEnd
CREATE TRIGGER audit_is_kept BEFORE UPDATE OR DELETE ON audit FOR EACH ROW EXECUTE FUNCTION audit_is_kept();

-- Imports and plans are done by whichever server takes them up. The file, and what a plan was asked for, are kept until then; a
-- run taken up again counts one attempt more, and what an earlier attempt would still store is refused.
ALTER TABLE import_run ADD COLUMN attempt integer NOT NULL DEFAULT 1;
CREATE TABLE import_file (
    organisation_id uuid NOT NULL,
    run_id          uuid NOT NULL,
    file            bytea NOT NULL,
    PRIMARY KEY (organisation_id, run_id),
    FOREIGN KEY (organisation_id, run_id) REFERENCES import_run (organisation_id, id)
);
ALTER TABLE plan ADD COLUMN attempt integer NOT NULL DEFAULT 1, ADD COLUMN step text NOT NULL DEFAULT '', ADD COLUMN asked jsonb;

-- Two managers who change one crew: the second is told.
ALTER TABLE crew ADD COLUMN version integer NOT NULL DEFAULT 1;

-- Sessions are found by the hash of their token from now on; everybody signs in once more.
DELETE FROM sessions;

-- +goose Down
ALTER TABLE crew DROP COLUMN version;
ALTER TABLE plan DROP COLUMN attempt, DROP COLUMN step, DROP COLUMN asked;
DROP TABLE import_file;
ALTER TABLE import_run DROP COLUMN attempt;
DROP TRIGGER audit_is_kept ON audit;
DROP FUNCTION audit_is_kept;
ALTER TABLE organisation DROP COLUMN audit_sealed, DROP COLUMN audit_seal;
DROP INDEX audit_unsealed, audit_seal;
ALTER TABLE audit DROP COLUMN seal_no, DROP COLUMN seal;
UPDATE mail_out SET status = 'failed' WHERE status IN ('sending', 'unknown');
ALTER TABLE mail_out DROP COLUMN claimed_at;
ALTER TABLE mail_out DROP CONSTRAINT mail_out_status_check;
ALTER TABLE mail_out ADD CONSTRAINT mail_out_status_check CHECK (status IN ('waiting', 'sent', 'failed'));
DROP INDEX sign_in_attempt_together;
ALTER TABLE organisation DROP COLUMN factor_roles;
DROP TABLE account_recovery;
ALTER TABLE account DROP COLUMN factor_secret, DROP COLUMN factor_since, DROP COLUMN factor_step;
DROP TABLE account_device, account_session;
