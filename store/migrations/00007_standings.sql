-- +goose Up

-- Where a student is with a version of a part, kept up with every entry, so that
-- no page has to read all that was ever practised. core/progress says what the
-- columns mean; they are made again where the target changes.
CREATE TABLE standings (
    studio_id     INTEGER NOT NULL,
    assignment_id INTEGER NOT NULL,
    part          TEXT NOT NULL,
    rung          TEXT NOT NULL,
    entries       INTEGER NOT NULL,
    minutes       INTEGER NOT NULL,
    clean         REAL NOT NULL,
    days          INTEGER NOT NULL,
    day           TEXT NOT NULL,
    tries         INTEGER NOT NULL,
    tempo         REAL NOT NULL,
    last_at       INTEGER NOT NULL,
    PRIMARY KEY (assignment_id, part, rung),
    FOREIGN KEY (studio_id, assignment_id) REFERENCES assignments (studio_id, id) ON DELETE CASCADE
) STRICT;

CREATE INDEX standings_of_studio ON standings (studio_id);

-- The tempo that a part of an assignment is to reach; 0 is not worked out yet.
ALTER TABLE assignment_parts ADD COLUMN target REAL NOT NULL DEFAULT 0;

CREATE INDEX entries_of_studio ON entries (studio_id, practised_at);
CREATE INDEX entries_of_part ON entries (assignment_id, part, practised_at);

-- The zone of a studio's days; empty is that of the machine.
ALTER TABLE studios ADD COLUMN time_zone TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE studios DROP COLUMN time_zone;
DROP INDEX entries_of_part;
DROP INDEX entries_of_studio;
ALTER TABLE assignment_parts DROP COLUMN target;
DROP TABLE standings;
