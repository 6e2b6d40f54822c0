-- +goose Up

-- A session belongs to one generation of its teacher: the password that is
-- changed and the teacher who signs out begin the next, and end all sessions.
ALTER TABLE teachers ADD COLUMN generation INTEGER NOT NULL DEFAULT 0;

-- A way back without mail: codes on paper, each for once. Only hashes are kept.
CREATE TABLE recovery_codes (
    studio_id  INTEGER NOT NULL,
    teacher_id INTEGER NOT NULL,
    hash       BLOB NOT NULL,
    PRIMARY KEY (teacher_id, hash),
    FOREIGN KEY (studio_id, teacher_id) REFERENCES teachers (studio_id, id) ON DELETE CASCADE
) STRICT;

-- Browsers in which a teacher has signed in: whoever tries passwords elsewhere
-- does not lock them out.
CREATE TABLE known_browsers (
    studio_id  INTEGER NOT NULL,
    teacher_id INTEGER NOT NULL,
    hash       BLOB NOT NULL,
    seen_at    INTEGER NOT NULL,
    PRIMARY KEY (teacher_id, hash),
    FOREIGN KEY (studio_id, teacher_id) REFERENCES teachers (studio_id, id) ON DELETE CASCADE
) STRICT;

-- +goose Down
DROP TABLE known_browsers;
DROP TABLE recovery_codes;
ALTER TABLE teachers DROP COLUMN generation;
