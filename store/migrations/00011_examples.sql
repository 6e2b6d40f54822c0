-- +goose Up
-- Whether a studio has examples is asked for every day's page.
CREATE INDEX songs_example ON songs (studio_id) WHERE example = 1;
CREATE INDEX students_example ON students (studio_id) WHERE example = 1;

-- +goose Down
DROP INDEX students_example;
DROP INDEX songs_example;
