-- What follows: proposals for an interval, the manager's answers, and the rounds that go out.

-- +goose Up
CREATE TABLE proposal (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    task_id         uuid NOT NULL,
    school          text NOT NULL,
    days            integer NOT NULL CHECK (days > 0),
    from_days       integer NOT NULL,
    habit_days      double precision NOT NULL,
    staircase_days  double precision NOT NULL,
    binding         text NOT NULL DEFAULT '',
    status          text NOT NULL CHECK (status IN ('open', 'accepted', 'overridden', 'superseded')),
    result          jsonb NOT NULL,
    reasons         jsonb NOT NULL,
    model_version   text NOT NULL,
    inputs_hash     text NOT NULL,
    computed_at     timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, task_id) REFERENCES task (organisation_id, id)
);
CREATE UNIQUE INDEX proposal_open ON proposal (organisation_id, task_id) WHERE status = 'open';

CREATE TABLE interval_change (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    task_id         uuid NOT NULL,
    from_days       integer NOT NULL,
    to_days         integer NOT NULL CHECK (to_days > 0),
    school          text NOT NULL CHECK (school IN ('habit', 'staircase', 'own')),
    reason          text NOT NULL DEFAULT '',
    proposal_id     uuid,
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    CHECK (school <> 'own' OR reason <> ''),
    FOREIGN KEY (organisation_id, task_id) REFERENCES task (organisation_id, id),
    FOREIGN KEY (organisation_id, proposal_id) REFERENCES proposal (organisation_id, id)
);
CREATE INDEX interval_change_task ON interval_change (organisation_id, task_id, at);

CREATE TABLE crew (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    name            text NOT NULL,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, name)
);

CREATE TABLE crew_hours (
    organisation_id uuid NOT NULL,
    crew_id         uuid NOT NULL,
    weekday         integer NOT NULL CHECK (weekday BETWEEN 0 AND 6),
    starts          time NOT NULL,
    minutes         integer NOT NULL CHECK (minutes BETWEEN 1 AND 1440),
    PRIMARY KEY (organisation_id, crew_id, weekday),
    FOREIGN KEY (organisation_id, crew_id) REFERENCES crew (organisation_id, id)
);

CREATE TABLE plan (
    organisation_id uuid NOT NULL REFERENCES organisation (id),
    id              uuid NOT NULL,
    made_by         text NOT NULL,
    made_at         timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id)
);

CREATE TABLE round (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    plan_id         uuid NOT NULL,
    crew_id         uuid NOT NULL,
    day             date NOT NULL,
    status          text NOT NULL CHECK (status IN ('published', 'withdrawn', 'done')),
    sequence        integer NOT NULL DEFAULT 1,
    minutes         double precision NOT NULL,
    hours_minutes   double precision NOT NULL,
    published_at    timestamptz NOT NULL,
    account_id      uuid REFERENCES account (id),
    version         integer NOT NULL DEFAULT 1,
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, plan_id) REFERENCES plan (organisation_id, id),
    FOREIGN KEY (organisation_id, crew_id) REFERENCES crew (organisation_id, id)
);
CREATE UNIQUE INDEX round_crew_day ON round (organisation_id, crew_id, day) WHERE status = 'published';

CREATE TABLE stop (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    round_id        uuid NOT NULL,
    site_id         uuid NOT NULL,
    seq             integer NOT NULL,
    minutes         double precision NOT NULL,
    windows         jsonb NOT NULL,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, round_id, seq),
    FOREIGN KEY (organisation_id, round_id) REFERENCES round (organisation_id, id),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id)
);

-- A task as it went out: frozen, so that the sheet says later what it said then.
CREATE TABLE stop_job (
    organisation_id uuid NOT NULL,
    stop_id         uuid NOT NULL,
    seq             integer NOT NULL,
    task_id         uuid NOT NULL,
    due             date NOT NULL,
    minutes         double precision NOT NULL,
    state           jsonb NOT NULL,
    reasons         jsonb NOT NULL,
    PRIMARY KEY (organisation_id, stop_id, seq),
    FOREIGN KEY (organisation_id, stop_id) REFERENCES stop (organisation_id, id),
    FOREIGN KEY (organisation_id, task_id) REFERENCES task (organisation_id, id)
);
CREATE INDEX stop_job_task ON stop_job (organisation_id, task_id);

-- +goose Down
DROP TABLE stop_job, stop, round, plan, crew_hours, crew, interval_change, proposal;
