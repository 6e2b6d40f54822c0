package store

import (
	"context"
)

// Template is a teacher's own order of steps.
type Template struct {
	StudioID int64  `db:"studio_id" json:"-"`
	Name     string `json:"name"`
	Steps    string `json:"steps"` // as lesson.Template is written
}

// Templates lists those of a studio by name.
func (s *Store) Templates(ctx context.Context, studio int64) ([]Template, error) {
	return list[Template](ctx, s.read, "SELECT * FROM templates WHERE studio_id = :studio ORDER BY name COLLATE NOCASE", args{"studio": studio})
}

// SetTemplate keeps an order of steps by its name.
func (s *Store) SetTemplate(ctx context.Context, t Template) error {
	return s.run(ctx, `INSERT INTO templates (studio_id, name, steps) VALUES (:studio, :name, :steps)
		ON CONFLICT (studio_id, name) DO UPDATE SET steps = excluded.steps`, args{"studio": t.StudioID, "name": t.Name, "steps": t.Steps})
}

// DeleteTemplate removes an order of steps.
func (s *Store) DeleteTemplate(ctx context.Context, studio int64, name string) error {
	return s.change(ctx, "DELETE FROM templates WHERE studio_id = :studio AND name = :name", args{"studio": studio, "name": name})
}
