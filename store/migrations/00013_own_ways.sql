-- +goose Up

-- How the teacher wants a part made for those who have this lesson alone; empty where it is
-- made as for everybody.
ALTER TABLE lesson_parts ADD COLUMN own TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE lesson_parts DROP COLUMN own;
