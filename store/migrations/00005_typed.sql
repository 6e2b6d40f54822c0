-- +goose Up

-- A draft has its time, and a number that is another once it was saved, thrown
-- away or replaced: what a page that is older still sends is no draft any more.
ALTER TABLE songs ADD COLUMN draft_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE songs ADD COLUMN draft_no INTEGER NOT NULL DEFAULT 0;

-- What was typed once and is neither draft nor saved version, to be brought back.
CREATE TABLE typed (
    id        INTEGER PRIMARY KEY,
    studio_id INTEGER NOT NULL,
    song_id   INTEGER NOT NULL,
    sheet     TEXT NOT NULL,
    typed_at  INTEGER NOT NULL,
    FOREIGN KEY (studio_id, song_id) REFERENCES songs (studio_id, id) ON DELETE CASCADE
) STRICT;

CREATE INDEX typed_of_song ON typed (studio_id, song_id, typed_at);

-- +goose Down
DROP TABLE typed;
ALTER TABLE songs DROP COLUMN draft_no;
ALTER TABLE songs DROP COLUMN draft_at;
