-- +goose Up

-- What the parts of a song are known by, and their bars: numbers that stay when they are
-- called something else. core/song says how they are given. Rows from before have 0 until
-- they are brought up to date.
CREATE TABLE song_parts (
    studio_id INTEGER NOT NULL,
    song_id   INTEGER NOT NULL,
    version   INTEGER NOT NULL,
    position  INTEGER NOT NULL,
    part_id   INTEGER NOT NULL,
    name      TEXT NOT NULL,
    bars      TEXT NOT NULL,    -- numbers of its written bars
    next_bar  INTEGER NOT NULL, -- one that no bar has had
    PRIMARY KEY (song_id, version, position),
    FOREIGN KEY (song_id, version) REFERENCES song_versions (song_id, version) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

ALTER TABLE songs ADD COLUMN next_part INTEGER NOT NULL DEFAULT 0; -- a number that no part has had; 0 where none has one yet

-- The name beside the number is what the part was called then.
ALTER TABLE lesson_parts ADD COLUMN part_id INTEGER NOT NULL DEFAULT 0;
ALTER TABLE assignment_parts ADD COLUMN part_id INTEGER NOT NULL DEFAULT 0;

ALTER TABLE ways RENAME TO old_ways;
CREATE TABLE ways (
    studio_id INTEGER NOT NULL,
    song_id   INTEGER NOT NULL,
    part_id   INTEGER NOT NULL,
    rung      TEXT NOT NULL,
    way       TEXT NOT NULL,
    PRIMARY KEY (song_id, part_id, rung),
    FOREIGN KEY (studio_id, song_id) REFERENCES songs (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

-- An entry belongs to a part (−1 is one that nobody knows any more) and a step, which is
-- empty for the part as a whole; some tells that it was not the part as a whole.
ALTER TABLE entries ADD COLUMN part_id INTEGER NOT NULL DEFAULT 0;
ALTER TABLE entries ADD COLUMN some INTEGER NOT NULL DEFAULT 0;
DROP INDEX entries_of_part;
DROP INDEX entries_of_steps;
CREATE INDEX entries_of_part ON entries (studio_id, assignment_id, part_id, practised_at);

-- Where a student is with a part, and with each step of it.
DROP TABLE standings;
CREATE TABLE standings (
    studio_id     INTEGER NOT NULL,
    assignment_id INTEGER NOT NULL,
    part_id       INTEGER NOT NULL,
    rung          TEXT NOT NULL,
    step          TEXT NOT NULL,
    entries       INTEGER NOT NULL,
    minutes       INTEGER NOT NULL,
    once          REAL NOT NULL,
    clean         REAL NOT NULL,
    days          INTEGER NOT NULL,
    day           TEXT NOT NULL,
    tries         INTEGER NOT NULL,
    tempo         REAL NOT NULL,
    last_at       INTEGER NOT NULL,
    PRIMARY KEY (assignment_id, part_id, rung, step),
    FOREIGN KEY (studio_id, assignment_id) REFERENCES assignments (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

CREATE INDEX standings_of_studio ON standings (studio_id, last_at) WHERE step = '';

-- What is worked out of songs and of what is assigned, kept until one of the things that it
-- is made of changes: then stale is set, and it is worked out again.
CREATE TABLE song_sums (
    studio_id INTEGER NOT NULL,
    song_id   INTEGER PRIMARY KEY,
    stale     INTEGER NOT NULL,
    rules     INTEGER NOT NULL, -- of the program that made it
    grade     REAL NOT NULL,
    problems  INTEGER NOT NULL,
    facts     TEXT NOT NULL,
    hill      TEXT NOT NULL,
    trouble   TEXT NOT NULL, -- why it could not be worked out; empty where it could
    FOREIGN KEY (studio_id, song_id) REFERENCES songs (studio_id, id) ON DELETE CASCADE
) STRICT;
CREATE INDEX song_sums_stale ON song_sums (studio_id) WHERE stale = 1;

CREATE TABLE assignment_sums (
    studio_id     INTEGER NOT NULL,
    assignment_id INTEGER PRIMARY KEY,
    stale         INTEGER NOT NULL,
    rules         INTEGER NOT NULL,
    facts         TEXT NOT NULL,
    grades        TEXT NOT NULL, -- of its parts, in their order
    hill          TEXT NOT NULL,
    trouble       TEXT NOT NULL,
    FOREIGN KEY (studio_id, assignment_id) REFERENCES assignments (studio_id, id) ON DELETE CASCADE
) STRICT;
CREATE INDEX assignment_sums_stale ON assignment_sums (studio_id) WHERE stale = 1;

CREATE TABLE assignment_steps (
    studio_id     INTEGER NOT NULL,
    assignment_id INTEGER NOT NULL,
    position      INTEGER NOT NULL,
    step          TEXT NOT NULL,
    part_id       INTEGER NOT NULL, -- 0 is none
    title         TEXT NOT NULL,
    start         REAL NOT NULL,
    goal          REAL NOT NULL,
    passes        INTEGER NOT NULL,
    minutes       INTEGER NOT NULL,
    day           INTEGER NOT NULL,
    PRIMARY KEY (assignment_id, position),
    FOREIGN KEY (studio_id, assignment_id) REFERENCES assignments (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

-- What of an export is being taken in, until it is there as a whole: what is found here at a
-- start was cut short, and is taken out again.
CREATE TABLE takings (
    id        INTEGER PRIMARY KEY,
    studio_id INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    songs     TEXT NOT NULL, -- numbers of rows that came with it
    lessons   TEXT NOT NULL,
    students  TEXT NOT NULL
) STRICT;

CREATE INDEX assignments_of_lesson ON assignments (lesson_id);

-- +goose Down
DROP INDEX assignments_of_lesson;
DROP TABLE takings;
DROP TABLE assignment_steps;
DROP TABLE assignment_sums;
DROP TABLE song_sums;
DROP INDEX entries_of_part;
ALTER TABLE entries DROP COLUMN some;
ALTER TABLE entries DROP COLUMN part_id;
CREATE INDEX entries_of_part ON entries (assignment_id, part, practised_at);
CREATE INDEX entries_of_steps ON entries (assignment_id, step) WHERE step <> '';
DROP TABLE ways;
ALTER TABLE old_ways RENAME TO ways;
ALTER TABLE assignment_parts DROP COLUMN part_id;
ALTER TABLE lesson_parts DROP COLUMN part_id;
ALTER TABLE songs DROP COLUMN next_part;
DROP TABLE song_parts;
