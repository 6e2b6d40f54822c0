-- +goose Up

-- Moments are seconds since 1970, UTC. Every row belongs to a studio, and
-- foreign keys carry the studio along, so that no row can point into another.

CREATE TABLE studios (
    id           INTEGER PRIMARY KEY,
    name         TEXT NOT NULL,
    string_names TEXT NOT NULL DEFAULT 'E A D G B e',
    counting     TEXT NOT NULL DEFAULT 'beat',
    created_at   INTEGER NOT NULL
) STRICT;

CREATE TABLE teachers (
    id        INTEGER PRIMARY KEY,
    studio_id INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    name      TEXT NOT NULL,
    email     TEXT NOT NULL UNIQUE COLLATE NOCASE,
    password  TEXT NOT NULL,
    UNIQUE (studio_id, id)
) STRICT;

CREATE TABLE students (
    id               INTEGER PRIMARY KEY,
    studio_id        INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    name             TEXT NOT NULL,
    about            TEXT NOT NULL DEFAULT '',
    reach            REAL NOT NULL DEFAULT 120,
    scale            REAL NOT NULL DEFAULT 648,
    notes_per_second REAL NOT NULL DEFAULT 6,
    left_handed      INTEGER NOT NULL DEFAULT 0,
    lesson_day       INTEGER NOT NULL DEFAULT -1, -- 0 Sunday to 6 Saturday, -1 none
    lesson_time      TEXT NOT NULL DEFAULT '',
    link_hash        BLOB UNIQUE,
    link_made_at     INTEGER NOT NULL DEFAULT 0,
    created_at       INTEGER NOT NULL,
    deleted_at       INTEGER NOT NULL DEFAULT 0,
    UNIQUE (studio_id, id)
) STRICT;

CREATE TABLE songs (
    id         INTEGER PRIMARY KEY,
    studio_id  INTEGER NOT NULL REFERENCES studios (id) ON DELETE CASCADE,
    title      TEXT NOT NULL,
    version    INTEGER NOT NULL,
    draft      TEXT, -- typed since the last save
    updated_at INTEGER NOT NULL,
    deleted_at INTEGER NOT NULL DEFAULT 0,
    UNIQUE (studio_id, id)
) STRICT;

CREATE INDEX songs_of_studio ON songs (studio_id, title);

-- Every saved sheet is kept.
CREATE TABLE song_versions (
    studio_id INTEGER NOT NULL,
    song_id   INTEGER NOT NULL,
    version   INTEGER NOT NULL,
    sheet     TEXT NOT NULL,
    saved_at  INTEGER NOT NULL,
    PRIMARY KEY (song_id, version),
    FOREIGN KEY (studio_id, song_id) REFERENCES songs (studio_id, id) ON DELETE CASCADE
) STRICT;

CREATE TABLE lessons (
    id           INTEGER PRIMARY KEY,
    studio_id    INTEGER NOT NULL,
    song_id      INTEGER NOT NULL,
    name         TEXT NOT NULL,
    target_tempo REAL NOT NULL,
    created_at   INTEGER NOT NULL,
    deleted_at   INTEGER NOT NULL DEFAULT 0,
    UNIQUE (studio_id, id),
    FOREIGN KEY (studio_id, song_id) REFERENCES songs (studio_id, id) ON DELETE CASCADE
) STRICT;

CREATE TABLE lesson_parts (
    studio_id INTEGER NOT NULL,
    lesson_id INTEGER NOT NULL,
    position  INTEGER NOT NULL,
    part      TEXT NOT NULL,
    rung      TEXT NOT NULL, -- empty: not in the lesson yet
    PRIMARY KEY (lesson_id, position),
    FOREIGN KEY (studio_id, lesson_id) REFERENCES lessons (studio_id, id) ON DELETE CASCADE
) STRICT;

-- An assignment keeps what was assigned: the version of the song, the tempo
-- and the rungs of that day.
CREATE TABLE assignments (
    id           INTEGER PRIMARY KEY,
    studio_id    INTEGER NOT NULL,
    student_id   INTEGER NOT NULL,
    lesson_id    INTEGER NOT NULL,
    song_id      INTEGER NOT NULL,
    song_version INTEGER NOT NULL,
    name         TEXT NOT NULL,
    target_tempo REAL NOT NULL,
    assigned_at  INTEGER NOT NULL,
    ended_at     INTEGER NOT NULL DEFAULT 0,
    UNIQUE (studio_id, id),
    FOREIGN KEY (studio_id, student_id) REFERENCES students (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, lesson_id) REFERENCES lessons (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (song_id, song_version) REFERENCES song_versions (song_id, version)
) STRICT;

CREATE INDEX assignments_of_student ON assignments (studio_id, student_id);

CREATE TABLE assignment_parts (
    studio_id     INTEGER NOT NULL,
    assignment_id INTEGER NOT NULL,
    position      INTEGER NOT NULL,
    part          TEXT NOT NULL,
    rung          TEXT NOT NULL,
    PRIMARY KEY (assignment_id, position),
    FOREIGN KEY (studio_id, assignment_id) REFERENCES assignments (studio_id, id) ON DELETE CASCADE
) STRICT;

CREATE TABLE entries (
    id            INTEGER PRIMARY KEY,
    studio_id     INTEGER NOT NULL,
    student_id    INTEGER NOT NULL,
    assignment_id INTEGER NOT NULL,
    part          TEXT NOT NULL,
    rung          TEXT NOT NULL,
    tempo         REAL NOT NULL,
    clean         INTEGER NOT NULL, -- passes in a row without a slip
    minutes       INTEGER NOT NULL,
    word          TEXT NOT NULL DEFAULT '',
    practised_at  INTEGER NOT NULL,
    sent_id       TEXT NOT NULL, -- made by the sender, so that sending twice logs once
    UNIQUE (student_id, sent_id),
    FOREIGN KEY (studio_id, student_id) REFERENCES students (studio_id, id) ON DELETE CASCADE,
    FOREIGN KEY (studio_id, assignment_id) REFERENCES assignments (studio_id, id) ON DELETE CASCADE
) STRICT;

CREATE INDEX entries_of_student ON entries (studio_id, student_id, practised_at);

CREATE TABLE sessions (
    token  TEXT PRIMARY KEY,
    data   BLOB NOT NULL,
    expiry REAL NOT NULL
) STRICT;

CREATE INDEX sessions_expiry ON sessions (expiry);

-- +goose Down
DROP TABLE sessions;
DROP TABLE entries;
DROP TABLE assignment_parts;
DROP TABLE assignments;
DROP TABLE lesson_parts;
DROP TABLE lessons;
DROP TABLE song_versions;
DROP TABLE songs;
DROP TABLE students;
DROP TABLE teachers;
DROP TABLE studios;
