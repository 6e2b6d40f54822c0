-- +goose Up

-- What a song asks of a player, on each of its rungs, as studio writes it.
ALTER TABLE song_sums ADD COLUMN needs TEXT NOT NULL DEFAULT '';

-- How far away a song is for a student: worked out in the background, again where the song, the hand
-- or what the student has learnt changes.
CREATE TABLE song_fits (
    studio_id  INTEGER NOT NULL,
    student_id INTEGER NOT NULL,
    song_id    INTEGER NOT NULL,
    stale      INTEGER NOT NULL,
    ready      TEXT NOT NULL, -- empty until it is worked out
    rung       TEXT NOT NULL, -- on which it is that
    missing    TEXT NOT NULL, -- names of what is to be learnt, as JSON
    PRIMARY KEY (student_id, song_id),
    FOREIGN KEY (studio_id, student_id) REFERENCES students (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, song_id) REFERENCES songs (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;
CREATE INDEX song_fits_stale ON song_fits (studio_id, student_id) WHERE stale = 1;
CREATE INDEX song_fits_of_song ON song_fits (song_id, ready);

-- +goose Down
DROP TABLE song_fits;
ALTER TABLE song_sums DROP COLUMN needs;
