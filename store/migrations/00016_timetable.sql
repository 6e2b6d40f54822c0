-- +goose Up

-- Lessons that come again, or single ones. Days are numbers as core/progress counts them, times are
-- minutes from midnight by the clock on the wall; −1 is no time.
CREATE TABLE series (
    id           INTEGER PRIMARY KEY,
    studio_id    INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    first_day    INTEGER NOT NULL,
    last_day     INTEGER NOT NULL, -- 0 is none
    every        INTEGER NOT NULL, -- weeks; 0 is a single lesson
    at           INTEGER NOT NULL,
    minutes      INTEGER NOT NULL,
    makes_up     INTEGER NOT NULL, -- the series of the lesson that it makes up, 0 for none
    makes_up_day INTEGER NOT NULL,
    UNIQUE (studio_id, id)
) STRICT;
CREATE INDEX series_again ON series (studio_id, last_day) WHERE every > 0;
CREATE INDEX series_single ON series (studio_id, first_day) WHERE every = 0;
CREATE INDEX series_making_up ON series (makes_up, makes_up_day) WHERE makes_up > 0;

CREATE TABLE series_students (
    studio_id  INTEGER NOT NULL,
    series_id  INTEGER NOT NULL,
    student_id INTEGER NOT NULL,
    PRIMARY KEY (series_id, student_id),
    FOREIGN KEY (studio_id, series_id) REFERENCES series (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, student_id) REFERENCES students (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;
CREATE INDEX series_of_student ON series_students (student_id);

-- What was done to the lesson of a series on a day.
CREATE TABLE changes (
    studio_id INTEGER NOT NULL,
    series_id INTEGER NOT NULL,
    day       INTEGER NOT NULL,
    kind      TEXT NOT NULL,
    to_day    INTEGER NOT NULL,
    to_at     INTEGER NOT NULL,
    PRIMARY KEY (series_id, day),
    FOREIGN KEY (studio_id, series_id) REFERENCES series (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;
CREATE INDEX changes_of_days ON changes (studio_id, day);
CREATE INDEX changes_moved ON changes (studio_id, to_day) WHERE kind = 'moved';

CREATE TABLE holidays (
    id        INTEGER PRIMARY KEY,
    studio_id INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    first_day INTEGER NOT NULL,
    last_day  INTEGER NOT NULL,
    name      TEXT NOT NULL
) STRICT;
CREATE INDEX holidays_of_studio ON holidays (studio_id, last_day);

-- An address at which a calendar finds the lessons of a studio, or of one student. Its secret is
-- not kept.
CREATE TABLE calendars (
    studio_id  INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    student_id INTEGER NOT NULL, -- 0 is the whole studio
    hash       BLOB NOT NULL UNIQUE,
    names      INTEGER NOT NULL, -- whether it says who comes
    made_at    INTEGER NOT NULL,
    PRIMARY KEY (studio_id, student_id)
) STRICT, WITHOUT ROWID;

-- When lessons are given, as typed: "Mon 14-20, Tue 14:30-19"; empty is worked out.
ALTER TABLE studios ADD COLUMN open_hours TEXT NOT NULL DEFAULT '';

-- The place of a student becomes a series that began on the first such weekday since they came.
INSERT INTO series (studio_id, first_day, last_day, every, at, minutes, makes_up, makes_up_day)
SELECT studio_id, created_at / 86400 + (lesson_day - (created_at / 86400 + 4) % 7 + 7) % 7, 0, 1,
    CASE WHEN length(lesson_time) = 5 THEN substr(lesson_time, 1, 2) * 60 + substr(lesson_time, 4, 2) ELSE -1 END, 45, -id, 0
FROM students WHERE lesson_day >= 0;
INSERT INTO series_students (studio_id, series_id, student_id) SELECT studio_id, id, -makes_up FROM series;
UPDATE series SET makes_up = 0;
ALTER TABLE students DROP COLUMN lesson_day;
ALTER TABLE students DROP COLUMN lesson_time;

-- +goose Down
ALTER TABLE students ADD COLUMN lesson_day INTEGER NOT NULL DEFAULT -1;
ALTER TABLE students ADD COLUMN lesson_time TEXT NOT NULL DEFAULT '';
UPDATE students SET lesson_day = (SELECT (s.first_day + 4) % 7 FROM series_students c JOIN series s ON s.id = c.series_id WHERE c.student_id = students.id AND s.every > 0 ORDER BY s.first_day DESC LIMIT 1),
    lesson_time = (SELECT CASE WHEN s.at < 0 THEN '' ELSE printf('%02d:%02d', s.at / 60, s.at % 60) END FROM series_students c JOIN series s ON s.id = c.series_id WHERE c.student_id = students.id AND s.every > 0 ORDER BY s.first_day DESC LIMIT 1)
WHERE id IN (SELECT c.student_id FROM series_students c JOIN series s ON s.id = c.series_id AND s.every > 0);
ALTER TABLE studios DROP COLUMN open_hours;
DROP TABLE calendars;
DROP TABLE holidays;
DROP TABLE changes;
DROP TABLE series_students;
DROP TABLE series;
