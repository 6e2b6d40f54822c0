-- +goose Up

-- What a teacher has changed in the steps of a lesson, as core/lesson writes it. An
-- assignment keeps that of its day.
ALTER TABLE lessons ADD COLUMN plan TEXT NOT NULL DEFAULT '';
ALTER TABLE assignments ADD COLUMN plan TEXT NOT NULL DEFAULT '';

-- What a student has learnt, and how long they practise on a day.
ALTER TABLE students ADD COLUMN known TEXT NOT NULL DEFAULT '';
ALTER TABLE students ADD COLUMN minutes INTEGER NOT NULL DEFAULT 10;

-- The step in which something was practised; empty for a part as a whole.
ALTER TABLE entries ADD COLUMN step TEXT NOT NULL DEFAULT '';
CREATE INDEX entries_of_steps ON entries (assignment_id, step) WHERE step <> '';

-- A teacher's own orders of steps.
CREATE TABLE templates (
    studio_id INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    name      TEXT NOT NULL,
    steps     TEXT NOT NULL, -- as core/lesson writes it
    PRIMARY KEY (studio_id, name)
) STRICT;

-- How handouts are made: shapes lying or upright, and the paper.
ALTER TABLE studios ADD COLUMN shapes TEXT NOT NULL DEFAULT 'lying';
ALTER TABLE studios ADD COLUMN paper TEXT NOT NULL DEFAULT 'a4';

-- +goose Down
ALTER TABLE studios DROP COLUMN paper;
ALTER TABLE studios DROP COLUMN shapes;
DROP TABLE templates;
DROP INDEX entries_of_steps;
ALTER TABLE entries DROP COLUMN step;
ALTER TABLE students DROP COLUMN minutes;
ALTER TABLE students DROP COLUMN known;
ALTER TABLE assignments DROP COLUMN plan;
ALTER TABLE lessons DROP COLUMN plan;
