package store

import "context"

// Everything is all that a studio holds, for taking it elsewhere.
type Everything struct {
	Studio      Studio       `json:"studio"`
	Songs       []Song       `json:"songs"`
	Ways        []Way        `json:"ways"`
	Lessons     []Lesson     `json:"lessons"`
	Students    []Student    `json:"students"`
	Assignments []Assignment `json:"assignments"`
	Entries     []Entry      `json:"entries"`
}

// Export reads all that a studio holds.
func (s *Store) Export(ctx context.Context, studio int64) (Everything, error) {
	var all Everything
	var err error
	for _, read := range []func() error{
		func() error { all.Studio, err = s.Studio(ctx, studio); return err },
		func() error { all.Songs, err = s.Songs(ctx, studio); return err },
		func() error { all.Ways, err = s.Ways(ctx, studio); return err },
		func() error { all.Lessons, err = s.Lessons(ctx, studio); return err },
		func() error { all.Students, err = s.Students(ctx, studio); return err },
		func() error { all.Assignments, err = s.Assignments(ctx, studio); return err },
		func() error { all.Entries, err = s.Entries(ctx, studio, 0); return err },
	} {
		if err := read(); err != nil {
			return all, err
		}
	}
	return all, nil
}
