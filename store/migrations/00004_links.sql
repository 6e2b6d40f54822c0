-- +goose Up

-- A student may have several links, on the phone and on paper. Only a hash of
-- each is kept.
CREATE TABLE links (
    id         INTEGER PRIMARY KEY,
    studio_id  INTEGER NOT NULL,
    student_id INTEGER NOT NULL,
    name       TEXT NOT NULL DEFAULT '',
    hash       BLOB NOT NULL UNIQUE,
    made_at    INTEGER NOT NULL,
    FOREIGN KEY (studio_id, student_id) REFERENCES students (studio_id, id) ON DELETE CASCADE
) STRICT;

CREATE INDEX links_of_student ON links (studio_id, student_id);

INSERT INTO links (studio_id, student_id, hash, made_at)
    SELECT studio_id, id, link_hash, link_made_at FROM students WHERE link_hash IS NOT NULL AND deleted_at = 0;

-- The columns of the one link that a student had cannot be dropped while they
-- are unique; they stay empty.
UPDATE students SET link_hash = NULL, link_made_at = 0;

-- +goose Down
DROP TABLE links;
