-- +goose Up

-- Assignments whose standings are to be made again of all their entries, in the background:
-- the days of the studio begin at another hour.
CREATE TABLE restandings (
    studio_id     INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    assignment_id INTEGER PRIMARY KEY REFERENCES assignments (id) ON DELETE CASCADE
) STRICT;

-- What wants a look is found by an index of just that. Some files have these already.
CREATE INDEX IF NOT EXISTS standings_ready ON standings (studio_id, last_at) WHERE step = '' AND days >= 2;
CREATE INDEX IF NOT EXISTS standings_stuck ON standings (studio_id, last_at) WHERE step = '' AND tries >= 3;

-- Whether a studio has examples is asked for every day's page.
CREATE INDEX songs_example ON songs (studio_id) WHERE example = 1;
CREATE INDEX students_example ON students (studio_id) WHERE example = 1;

-- +goose Down
DROP INDEX students_example;
DROP INDEX songs_example;
DROP INDEX standings_stuck;
DROP INDEX standings_ready;
DROP TABLE restandings;
