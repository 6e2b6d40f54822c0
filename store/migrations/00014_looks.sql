-- +goose Up

-- What else was played as a whole within an entry, like the parts of a song that was played from
-- end to end: numbers of parts with their rungs.
ALTER TABLE entries ADD COLUMN also TEXT NOT NULL DEFAULT '';

-- Where a student is with a part, and with each step of it, with what is learnt and when it is
-- looked at again. Days are numbers as core/progress counts them, 0 is none; due is 0 where
-- nothing is learnt or the last look was not clean.
DROP TABLE standings;
CREATE TABLE standings (
    studio_id     INTEGER NOT NULL,
    assignment_id INTEGER NOT NULL,
    part_id       INTEGER NOT NULL,
    rung          TEXT NOT NULL,
    step          TEXT NOT NULL,
    entries       INTEGER NOT NULL,
    minutes       INTEGER NOT NULL,
    last_at       INTEGER NOT NULL,
    once          REAL NOT NULL,
    clean         REAL NOT NULL,
    clean_days    INTEGER NOT NULL,
    clean_day     INTEGER NOT NULL,
    gained        INTEGER NOT NULL,
    practised     INTEGER NOT NULL,
    tries         INTEGER NOT NULL,
    tempo         REAL NOT NULL,
    target_days   INTEGER NOT NULL,
    target_day    INTEGER NOT NULL,
    learnt        INTEGER NOT NULL,
    failed        INTEGER NOT NULL,
    looked        INTEGER NOT NULL,
    gap           INTEGER NOT NULL,
    due           INTEGER NOT NULL,
    PRIMARY KEY (assignment_id, part_id, rung, step),
    FOREIGN KEY (studio_id, assignment_id) REFERENCES assignments (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

-- What wants a look is found by an index of just that.
CREATE INDEX standings_learnt ON standings (studio_id, learnt) WHERE step = '' AND due > 0;
CREATE INDEX standings_due ON standings (studio_id, due) WHERE step = '' AND due > 0;
CREATE INDEX standings_stuck ON standings (studio_id, last_at) WHERE step = '' AND due = 0 AND tries >= 3;
CREATE INDEX standings_stalled ON standings (studio_id, last_at) WHERE step = '' AND due = 0 AND tries < 3 AND practised >= gained + 10;
CREATE INDEX standings_quiet ON standings (studio_id, last_at) WHERE step = '' AND due = 0;

-- They are made again of all entries, in the background.
INSERT OR IGNORE INTO restandings (studio_id, assignment_id) SELECT studio_id, id FROM assignments;

-- +goose Down
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
CREATE INDEX standings_ready ON standings (studio_id, last_at) WHERE step = '' AND days >= 2;
CREATE INDEX standings_stuck ON standings (studio_id, last_at) WHERE step = '' AND tries >= 3;
ALTER TABLE entries DROP COLUMN also;
