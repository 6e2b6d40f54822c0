-- +goose Up

-- How the studio simplifies chords, and how it numbers minor songs.
ALTER TABLE studios ADD COLUMN chord_school TEXT NOT NULL DEFAULT 'few';
ALTER TABLE studios ADD COLUMN numbering TEXT NOT NULL DEFAULT 'relative';

-- +goose Down
ALTER TABLE studios DROP COLUMN numbering;
ALTER TABLE studios DROP COLUMN chord_school;
