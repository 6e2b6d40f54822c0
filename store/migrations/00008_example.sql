-- +goose Up

-- An example, to look at in the first hour and to take out again with one press.
ALTER TABLE songs ADD COLUMN example INTEGER NOT NULL DEFAULT 0;
ALTER TABLE students ADD COLUMN example INTEGER NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE students DROP COLUMN example;
ALTER TABLE songs DROP COLUMN example;
