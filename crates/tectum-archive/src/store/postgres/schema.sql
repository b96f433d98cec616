-- An archive of machines. Digests are those of SHA-256. States are shared by all looks that saw them; a look's own text is kept as it was
-- written, because the next look holds its digest.
CREATE TABLE tectum.machine (
    key text PRIMARY KEY,
    host text,
    system_uuid text,
    serial text,
    machine_id text,
    state bytea,
    last_seen timestamptz,
    unchanged_since timestamptz,
    observations bigint NOT NULL DEFAULT 0,
    states bigint NOT NULL DEFAULT 0,
    critical bigint NOT NULL DEFAULT 0,
    warning bigint NOT NULL DEFAULT 0,
    notice bigint NOT NULL DEFAULT 0,
    overview jsonb NOT NULL DEFAULT '{}',
    last_number bigint NOT NULL DEFAULT 0,
    last_digest bytea
);
CREATE INDEX machine_by_host ON tectum.machine (lower(host));
CREATE INDEX machine_by_system_uuid ON tectum.machine (system_uuid);
CREATE INDEX machine_by_serial ON tectum.machine (serial);
CREATE INDEX machine_by_machine_id ON tectum.machine (machine_id);

CREATE TABLE tectum.state (
    digest bytea PRIMARY KEY,
    packed bytea NOT NULL
);

-- Its inventory, a section a row: a question about one section of a whole fleet then unpacks no other.
CREATE TABLE tectum.section (
    state bytea NOT NULL REFERENCES tectum.state (digest) ON DELETE CASCADE,
    name text NOT NULL,
    content jsonb NOT NULL,
    PRIMARY KEY (state, name)
);

CREATE TABLE tectum.origins (
    digest bytea PRIMARY KEY,
    packed bytea NOT NULL
);

-- Which of them say where the values of each section of a look are from: most looks at a machine share one list.
CREATE TABLE tectum.origins_list (
    digest bytea PRIMARY KEY,
    sections text[] NOT NULL,
    origins bytea[] NOT NULL
);

-- Names that stand in every observation, by which their texts are packed (a raw dictionary of Zstandard).
CREATE TABLE tectum.dictionary (
    number integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    content bytea NOT NULL
);

CREATE TABLE tectum.observation (
    machine text NOT NULL REFERENCES tectum.machine (key),
    number bigint NOT NULL,
    at timestamptz NOT NULL,
    saved_at timestamptz NOT NULL,
    state bytea NOT NULL REFERENCES tectum.state (digest),
    origins bytea NOT NULL REFERENCES tectum.origins_list (digest),
    host text,
    system_uuid text,
    serial text,
    machine_id text,
    privileged boolean NOT NULL,
    critical bigint NOT NULL,
    warning bigint NOT NULL,
    notice bigint NOT NULL,
    digest bytea NOT NULL,
    before bytea,
    dictionary integer NOT NULL REFERENCES tectum.dictionary (number),
    packed bytea NOT NULL,
    PRIMARY KEY (machine, number)
);
CREATE INDEX observation_by_state ON tectum.observation (state);
CREATE INDEX observation_by_time ON tectum.observation (machine, at, number);

CREATE TABLE tectum.mark (
    machine text NOT NULL,
    name text NOT NULL,
    number bigint NOT NULL,
    marked_at timestamptz NOT NULL,
    PRIMARY KEY (machine, name),
    FOREIGN KEY (machine, number) REFERENCES tectum.observation (machine, number)
);

CREATE TABLE tectum.removed (
    machine text NOT NULL REFERENCES tectum.machine (key),
    number bigint NOT NULL,
    digest bytea NOT NULL,
    before bytea,
    removed_at timestamptz NOT NULL,
    PRIMARY KEY (machine, number)
);

-- Every machine as it was seen last, a section a row.
CREATE VIEW tectum.latest_section AS
    SELECT m.key, m.host, m.serial, m.system_uuid, m.machine_id, m.last_seen, m.unchanged_since, c.name, c.content
    FROM tectum.machine m JOIN tectum.section c ON c.state = m.state;

-- Every machine as it was seen last, with its inventory.
CREATE VIEW tectum.latest AS
    SELECT m.key, m.host, m.serial, m.system_uuid, m.machine_id, m.last_seen, m.unchanged_since,
        (SELECT jsonb_object_agg(c.name, c.content) FROM tectum.section c WHERE c.state = m.state) AS inventory
    FROM tectum.machine m WHERE m.state IS NOT NULL;
