-- +goose Up

-- What is looked for by words: the title and the text of songs, students, lessons, notes of hours
-- and words of students. The rows are kept by triggers, so that they are never behind. The number
-- of a row is eight times that of what it is of, and one for each kind; of is a word for the studio.
CREATE VIRTUAL TABLE found USING fts5(of, title, body, tokenize = "unicode61 remove_diacritics 2", prefix = '2 3');
INSERT INTO found (found, rank) VALUES ('secure-delete', 1); -- what is erased is gone from the index as well

-- +goose StatementBegin
CREATE TRIGGER found_save AFTER INSERT ON song_versions BEGIN
    DELETE FROM found WHERE rowid = new.song_id * 8;
    INSERT INTO found (rowid, of, title, body) SELECT id * 8, 's' || studio_id, title, new.sheet FROM songs WHERE id = new.song_id AND version = new.version AND deleted_at = 0;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_song AFTER UPDATE OF title, version, deleted_at ON songs BEGIN
    DELETE FROM found WHERE rowid = new.id * 8;
    INSERT INTO found (rowid, of, title, body) SELECT song_id * 8, 's' || studio_id, new.title, sheet FROM song_versions
        WHERE song_id = new.id AND version = new.version AND new.deleted_at = 0;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_song_gone AFTER DELETE ON songs BEGIN
    DELETE FROM found WHERE rowid = old.id * 8;
    DELETE FROM tags WHERE studio_id = old.studio_id AND kind = 'song' AND of_id = old.id;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_student_new AFTER INSERT ON students BEGIN
    INSERT INTO found (rowid, of, title, body) SELECT new.id * 8 + 1, 's' || new.studio_id, new.name, new.about || ' ' || new.known WHERE new.deleted_at = 0;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_student AFTER UPDATE OF name, about, known, deleted_at ON students BEGIN
    DELETE FROM found WHERE rowid = new.id * 8 + 1;
    INSERT INTO found (rowid, of, title, body) SELECT new.id * 8 + 1, 's' || new.studio_id, new.name, new.about || ' ' || new.known WHERE new.deleted_at = 0;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_student_gone AFTER DELETE ON students BEGIN
    DELETE FROM found WHERE rowid = old.id * 8 + 1;
    DELETE FROM tags WHERE studio_id = old.studio_id AND kind = 'student' AND of_id = old.id;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_lesson_new AFTER INSERT ON lessons BEGIN
    INSERT INTO found (rowid, of, title, body) SELECT new.id * 8 + 2, 's' || new.studio_id, new.name,
        CASE WHEN json_valid(new.plan) THEN (SELECT group_concat(value, ' ') FROM json_tree(new.plan) WHERE type = 'text' AND key IN ('title', 'words')) ELSE '' END
        WHERE new.deleted_at = 0;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_lesson AFTER UPDATE OF name, plan, deleted_at ON lessons BEGIN
    DELETE FROM found WHERE rowid = new.id * 8 + 2;
    INSERT INTO found (rowid, of, title, body) SELECT new.id * 8 + 2, 's' || new.studio_id, new.name,
        CASE WHEN json_valid(new.plan) THEN (SELECT group_concat(value, ' ') FROM json_tree(new.plan) WHERE type = 'text' AND key IN ('title', 'words')) ELSE '' END
        WHERE new.deleted_at = 0;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_lesson_gone AFTER DELETE ON lessons BEGIN
    DELETE FROM found WHERE rowid = old.id * 8 + 2;
    DELETE FROM tags WHERE studio_id = old.studio_id AND kind = 'lesson' AND of_id = old.id;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_note_new AFTER INSERT ON hours WHEN new.note <> '' BEGIN
    INSERT INTO found (rowid, of, title, body) VALUES (new.id * 8 + 3, 's' || new.studio_id, '', new.note);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_note AFTER UPDATE OF note ON hours BEGIN
    DELETE FROM found WHERE rowid = new.id * 8 + 3;
    INSERT INTO found (rowid, of, title, body) SELECT new.id * 8 + 3, 's' || new.studio_id, '', new.note WHERE new.note <> '';
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_note_gone AFTER DELETE ON hours BEGIN
    DELETE FROM found WHERE rowid = old.id * 8 + 3;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_word_new AFTER INSERT ON words BEGIN
    INSERT INTO found (rowid, of, title, body) VALUES (new.id * 8 + 4, 's' || new.studio_id, '', new.word || ' ' || new.answer);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_word AFTER UPDATE OF word, answer ON words BEGIN
    DELETE FROM found WHERE rowid = new.id * 8 + 4;
    INSERT INTO found (rowid, of, title, body) VALUES (new.id * 8 + 4, 's' || new.studio_id, '', new.word || ' ' || new.answer);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER found_word_gone AFTER DELETE ON words BEGIN
    DELETE FROM found WHERE rowid = old.id * 8 + 4;
END;
-- +goose StatementEnd

INSERT INTO found (rowid, of, title, body) SELECT s.id * 8, 's' || s.studio_id, s.title, v.sheet FROM songs s
    JOIN song_versions v ON v.song_id = s.id AND v.version = s.version WHERE s.deleted_at = 0;
INSERT INTO found (rowid, of, title, body) SELECT id * 8 + 1, 's' || studio_id, name, about || ' ' || known FROM students WHERE deleted_at = 0;
INSERT INTO found (rowid, of, title, body) SELECT id * 8 + 2, 's' || studio_id, name,
    CASE WHEN json_valid(plan) THEN (SELECT group_concat(value, ' ') FROM json_tree(plan) WHERE type = 'text' AND key IN ('title', 'words')) ELSE '' END
    FROM lessons WHERE deleted_at = 0;
INSERT INTO found (rowid, of, title, body) SELECT id * 8 + 3, 's' || studio_id, '', note FROM hours WHERE note <> '';
INSERT INTO found (rowid, of, title, body) SELECT id * 8 + 4, 's' || studio_id, '', word || ' ' || answer FROM words;

-- Words that a teacher puts on songs, lessons and students; those on students are groups.
CREATE TABLE tags (
    studio_id INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    kind      TEXT NOT NULL, -- song, lesson or student
    of_id     INTEGER NOT NULL,
    tag       TEXT NOT NULL COLLATE NOCASE,
    PRIMARY KEY (studio_id, kind, of_id, tag)
) STRICT, WITHOUT ROWID;
CREATE INDEX tags_by_name ON tags (studio_id, kind, tag);

-- What is put away is kept as it is, and stands in no list.
ALTER TABLE songs ADD COLUMN archived_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE lessons ADD COLUMN archived_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE students ADD COLUMN archived_at INTEGER NOT NULL DEFAULT 0;

-- What was changed, with the rows as they were and as they became, so that it can be taken back.
CREATE TABLE journal (
    id        INTEGER PRIMARY KEY,
    studio_id INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    at        INTEGER NOT NULL,
    what      TEXT NOT NULL,
    rows      TEXT NOT NULL, -- JSON, as the journal writes them
    undone_at INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX journal_of_studio ON journal (studio_id, at);

-- About which students, songs and lessons a change is: it goes with them for good.
CREATE TABLE journal_about (
    change_id INTEGER NOT NULL REFERENCES journal (id) ON DELETE CASCADE,
    kind      TEXT NOT NULL, -- song, lesson or student
    of_id     INTEGER NOT NULL,
    PRIMARY KEY (change_id, kind, of_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX journal_about_it ON journal_about (kind, of_id);

-- What songs ask for in their own texture, one row for each, and their riffs: by these songs are
-- found that share them.
CREATE TABLE song_skills (
    studio_id INTEGER NOT NULL,
    song_id   INTEGER NOT NULL,
    kind      TEXT NOT NULL,
    key       TEXT NOT NULL,
    name      TEXT NOT NULL,
    PRIMARY KEY (song_id, kind, key),
    FOREIGN KEY (studio_id, song_id) REFERENCES songs (studio_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;
CREATE INDEX song_skills_by_key ON song_skills (studio_id, kind, key, name);

-- They are there of songs that stand on the shelf alone: of one that comes back they are made again.
-- +goose StatementBegin
CREATE TRIGGER song_skills_of_shelf AFTER UPDATE OF deleted_at, archived_at ON songs WHEN old.deleted_at <> new.deleted_at OR old.archived_at <> new.archived_at BEGIN
    DELETE FROM song_skills WHERE song_id = new.id AND (new.deleted_at > 0 OR new.archived_at > 0);
    UPDATE song_sums SET stale = 1 WHERE song_id = new.id AND new.deleted_at = 0 AND new.archived_at = 0;
END;
-- +goose StatementEnd

-- A word of a student may be a wish for a song: which one of the shelf it is, and through which
-- songs the way leads, as it was answered.
ALTER TABLE words ADD COLUMN wish INTEGER NOT NULL DEFAULT 0;
ALTER TABLE words ADD COLUMN song_id INTEGER NOT NULL DEFAULT 0; -- 0 where it is none of the shelf
ALTER TABLE words ADD COLUMN way TEXT NOT NULL DEFAULT '[]';

-- What is to be learnt first of a song is of some kind, by which the step is known that teaches it.
ALTER TABLE song_fits ADD COLUMN first_kind TEXT NOT NULL DEFAULT '';

-- Lists are made by these.
CREATE INDEX lessons_of_studio ON lessons (studio_id, song_id);
CREATE INDEX assignments_of_song ON assignments (song_id, studio_id, lesson_id, ended_at);
ALTER TABLE song_sums ADD COLUMN song_key TEXT GENERATED ALWAYS AS (json_extract(facts, '$.key')) VIRTUAL;
ALTER TABLE song_sums ADD COLUMN tuning TEXT GENERATED ALWAYS AS (json_extract(facts, '$.tuning')) VIRTUAL;
CREATE INDEX song_sums_key ON song_sums (studio_id, song_key);
CREATE INDEX song_sums_tuning ON song_sums (studio_id, tuning);

-- +goose Down
DROP INDEX song_sums_tuning;
DROP INDEX song_sums_key;
ALTER TABLE song_sums DROP COLUMN tuning;
ALTER TABLE song_sums DROP COLUMN song_key;
ALTER TABLE song_fits DROP COLUMN first_kind;
DROP INDEX assignments_of_song;
DROP INDEX lessons_of_studio;
ALTER TABLE words DROP COLUMN way;
ALTER TABLE words DROP COLUMN song_id;
ALTER TABLE words DROP COLUMN wish;
DROP TRIGGER song_skills_of_shelf;
DROP TABLE song_skills;
DROP TABLE journal_about;
DROP TABLE journal;
ALTER TABLE students DROP COLUMN archived_at;
ALTER TABLE lessons DROP COLUMN archived_at;
ALTER TABLE songs DROP COLUMN archived_at;
DROP TRIGGER found_word_gone;
DROP TRIGGER found_word;
DROP TRIGGER found_word_new;
DROP TRIGGER found_note_gone;
DROP TRIGGER found_note;
DROP TRIGGER found_note_new;
DROP TRIGGER found_lesson_gone;
DROP TRIGGER found_lesson;
DROP TRIGGER found_lesson_new;
DROP TRIGGER found_student_gone;
DROP TRIGGER found_student;
DROP TRIGGER found_student_new;
DROP TRIGGER found_song_gone;
DROP TRIGGER found_song;
DROP TRIGGER found_save;
DROP TABLE tags;
DROP TABLE found;
