-- +goose Up

-- What a student plays on, and what they still have to learn.
ALTER TABLE students ADD COLUMN acoustic INTEGER NOT NULL DEFAULT 0;
ALTER TABLE students ADD COLUMN no_barre INTEGER NOT NULL DEFAULT 0;
ALTER TABLE students ADD COLUMN no_little INTEGER NOT NULL DEFAULT 0;
ALTER TABLE students ADD COLUMN thumb INTEGER NOT NULL DEFAULT 0;
ALTER TABLE students ADD COLUMN picking TEXT NOT NULL DEFAULT 'alternate';
ALTER TABLE students ADD COLUMN unlearnt TEXT NOT NULL DEFAULT '';

-- How the teacher wants a version of a part made: wishes and pins, a line
-- each. Where there is no row the program decides.
CREATE TABLE ways (
    studio_id INTEGER NOT NULL,
    song_id   INTEGER NOT NULL,
    part      TEXT NOT NULL,
    rung      TEXT NOT NULL,
    way       TEXT NOT NULL,
    PRIMARY KEY (song_id, part, rung),
    FOREIGN KEY (studio_id, song_id) REFERENCES songs (studio_id, id) ON DELETE CASCADE
) STRICT;

-- An assignment keeps the way of its day.
ALTER TABLE assignment_parts ADD COLUMN way TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE assignment_parts DROP COLUMN way;
DROP TABLE ways;
ALTER TABLE students DROP COLUMN unlearnt;
ALTER TABLE students DROP COLUMN picking;
ALTER TABLE students DROP COLUMN thumb;
ALTER TABLE students DROP COLUMN no_little;
ALTER TABLE students DROP COLUMN no_barre;
ALTER TABLE students DROP COLUMN acoustic;
