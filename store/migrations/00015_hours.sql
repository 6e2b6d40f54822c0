-- +goose Up

-- A lesson hour of a student, with two lines of notes that the next hour begins with. The day is a
-- number as core/progress counts days.
CREATE TABLE hours (
    id         INTEGER PRIMARY KEY,
    studio_id  INTEGER NOT NULL,
    student_id INTEGER NOT NULL,
    day        INTEGER NOT NULL,
    note       TEXT NOT NULL,
    FOREIGN KEY (studio_id, student_id) REFERENCES students (studio_id, id) ON DELETE CASCADE,
    UNIQUE (student_id, day)
) STRICT;

-- What is done in it, in its order. What is of no part of a lesson has 0 for its assignment.
CREATE TABLE hour_items (
    hour_id       INTEGER NOT NULL REFERENCES hours (id) ON DELETE CASCADE,
    position      INTEGER NOT NULL,
    kind          TEXT NOT NULL,
    minutes       INTEGER NOT NULL,
    assignment_id INTEGER NOT NULL,
    part_id       INTEGER NOT NULL,
    step          TEXT NOT NULL,
    title         TEXT NOT NULL, -- as it was called then
    why           TEXT NOT NULL, -- as it was said then
    done          INTEGER NOT NULL,
    PRIMARY KEY (hour_id, position)
) STRICT, WITHOUT ROWID;

-- What the teacher wants to be practised first, until something else is chosen.
CREATE TABLE tasks (
    studio_id     INTEGER NOT NULL,
    student_id    INTEGER NOT NULL,
    assignment_id INTEGER NOT NULL,
    step          TEXT NOT NULL,
    position      INTEGER NOT NULL,
    PRIMARY KEY (student_id, assignment_id, step),
    FOREIGN KEY (studio_id, student_id) REFERENCES students (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, assignment_id) REFERENCES assignments (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

-- A short word of a student to the teacher, and the answer.
CREATE TABLE words (
    id          INTEGER PRIMARY KEY,
    studio_id   INTEGER NOT NULL,
    student_id  INTEGER NOT NULL,
    word        TEXT NOT NULL,
    said_at     INTEGER NOT NULL,
    answer      TEXT NOT NULL,
    answered_at INTEGER NOT NULL, -- 0 is not yet
    sent_id     TEXT NOT NULL,
    FOREIGN KEY (studio_id, student_id) REFERENCES students (studio_id, id) ON DELETE CASCADE,
    UNIQUE (student_id, sent_id)
) STRICT;
CREATE INDEX words_of_student ON words (student_id, said_at);
CREATE INDEX words_open ON words (studio_id, said_at) WHERE answered_at = 0;

-- +goose Down
DROP TABLE words;
DROP TABLE tasks;
DROP TABLE hour_items;
DROP TABLE hours;
