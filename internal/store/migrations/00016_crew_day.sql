-- +goose Up

-- Who is in a crew, and when: on any day a person is in one crew at most.
CREATE TABLE crew_member (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    crew_id         uuid NOT NULL,
    person_id       uuid NOT NULL,
    during          daterange NOT NULL CHECK (NOT isempty(during)),
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, crew_id) REFERENCES crew (organisation_id, id),
    FOREIGN KEY (organisation_id, person_id) REFERENCES person (organisation_id, id),
    EXCLUDE USING gist (organisation_id WITH =, person_id WITH =, during WITH &&)
);
CREATE INDEX crew_member_crew ON crew_member (organisation_id, crew_id);

-- A job of a published round that its crew gave back, with why: it is planned again.
CREATE TABLE job_return (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    stop_id         uuid NOT NULL,
    key             text NOT NULL,
    unit_id         uuid NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('no_time', 'called_away', 'missing', 'other')),
    note            text NOT NULL,
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    PRIMARY KEY (organisation_id, id),
    UNIQUE (organisation_id, stop_id, key),
    FOREIGN KEY (organisation_id, stop_id) REFERENCES stop (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id)
);
CREATE INDEX job_return_unit ON job_return (organisation_id, unit_id);

-- A unit met on site that is not in the register: somebody decides whether it belongs there.
CREATE TABLE found_unit (
    organisation_id uuid NOT NULL,
    id              uuid NOT NULL,
    site_id         uuid NOT NULL,
    place           text NOT NULL,
    tag             text NOT NULL DEFAULT '',
    class_id        uuid,
    note            text NOT NULL DEFAULT '',
    day             date NOT NULL,
    account_id      uuid REFERENCES account (id),
    at              timestamptz NOT NULL,
    unit_id         uuid, -- as which it was added
    dismissed       text NOT NULL DEFAULT '', -- or why not
    decided_by      uuid REFERENCES account (id),
    decided_at      timestamptz,
    CHECK ((decided_at IS NULL) = (unit_id IS NULL AND dismissed = '')),
    PRIMARY KEY (organisation_id, id),
    FOREIGN KEY (organisation_id, site_id) REFERENCES site (organisation_id, id),
    FOREIGN KEY (organisation_id, class_id) REFERENCES equipment_class (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id)
);
CREATE INDEX found_unit_open ON found_unit (organisation_id, at) WHERE decided_at IS NULL;
ALTER TABLE attachment DROP CONSTRAINT attachment_entity_check,
    ADD CONSTRAINT attachment_entity_check CHECK (entity IN ('unit', 'site', 'visit', 'symptom', 'tick', 'watch', 'found'));

-- The units of a contractor's link, each returned once. Links of before have one.
CREATE TABLE guest_link_unit (
    organisation_id uuid NOT NULL,
    link_id         uuid NOT NULL,
    unit_id         uuid NOT NULL,
    used_at         timestamptz,
    PRIMARY KEY (organisation_id, link_id, unit_id),
    FOREIGN KEY (organisation_id, link_id) REFERENCES guest_link (organisation_id, id),
    FOREIGN KEY (organisation_id, unit_id) REFERENCES unit (organisation_id, id)
);
INSERT INTO guest_link_unit SELECT organisation_id, id, unit_id, used_at FROM guest_link WHERE unit_id IS NOT NULL;

-- The parts a visit noted, as it said so; the unit keeps its own list.
ALTER TABLE visit ADD COLUMN parts_noted jsonb NOT NULL DEFAULT '[]';

-- A reading that has no limit of its own carries no verdict: that is no failure to judge.
ALTER TABLE reading DROP CONSTRAINT reading_verdict_check,
    ADD CONSTRAINT reading_verdict_check CHECK (verdict IN ('pass', 'borderline', 'fail', 'cannot_judge', 'no_verdict'));

-- +goose Down
UPDATE reading SET verdict = 'cannot_judge' WHERE verdict = 'no_verdict';
ALTER TABLE reading DROP CONSTRAINT reading_verdict_check,
    ADD CONSTRAINT reading_verdict_check CHECK (verdict IN ('pass', 'borderline', 'fail', 'cannot_judge'));
DELETE FROM attachment WHERE entity = 'found';
ALTER TABLE attachment DROP CONSTRAINT attachment_entity_check,
    ADD CONSTRAINT attachment_entity_check CHECK (entity IN ('unit', 'site', 'visit', 'symptom', 'tick', 'watch'));
ALTER TABLE visit DROP COLUMN parts_noted;
DROP TABLE guest_link_unit, found_unit, job_return, crew_member;
