-- +goose Up

-- How a clean is to be done from now on: the passes that were accepted with a program; empty where it is done as it was last.
ALTER TABLE task ADD COLUMN plan jsonb;

-- What was proposed beside an interval: plan, first clean, light clean in between, and what they cost; empty where the interval alone was.
ALTER TABLE proposal ADD COLUMN program jsonb;

-- +goose Down
ALTER TABLE proposal DROP COLUMN program;
ALTER TABLE task DROP COLUMN plan;
