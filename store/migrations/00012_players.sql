-- +goose Up

-- Whose line of a part is learnt, by the name in the sheet; empty is the first player's.
ALTER TABLE lesson_parts ADD COLUMN player TEXT NOT NULL DEFAULT '';
ALTER TABLE assignment_parts ADD COLUMN player TEXT NOT NULL DEFAULT '';

-- And how the teacher wants it made.
ALTER TABLE ways RENAME TO first_ways;
CREATE TABLE ways (
    studio_id INTEGER NOT NULL,
    song_id   INTEGER NOT NULL,
    part_id   INTEGER NOT NULL,
    player    TEXT NOT NULL DEFAULT '',
    rung      TEXT NOT NULL,
    way       TEXT NOT NULL,
    PRIMARY KEY (song_id, part_id, player, rung),
    FOREIGN KEY (studio_id, song_id) REFERENCES songs (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;
INSERT INTO ways (studio_id, song_id, part_id, rung, way) SELECT studio_id, song_id, part_id, rung, way FROM first_ways;
DROP TABLE first_ways;

-- +goose Down
ALTER TABLE ways RENAME TO all_ways;
CREATE TABLE ways (
    studio_id INTEGER NOT NULL,
    song_id   INTEGER NOT NULL,
    part_id   INTEGER NOT NULL,
    rung      TEXT NOT NULL,
    way       TEXT NOT NULL,
    PRIMARY KEY (song_id, part_id, rung),
    FOREIGN KEY (studio_id, song_id) REFERENCES songs (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;
INSERT INTO ways SELECT studio_id, song_id, part_id, rung, way FROM all_ways WHERE player = '';
DROP TABLE all_ways;
ALTER TABLE assignment_parts DROP COLUMN player;
ALTER TABLE lesson_parts DROP COLUMN player;
