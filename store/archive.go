package store

import (
	"archive/zip"
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
)

// Archive is an export that is read row by row: as it is written now, a zip of JSON lines,
// or as it was written once, one JSON object with a list for each kind of row. However many
// rows it has, one is in memory.
type Archive struct {
	Whole    bool // of a whole studio, not of one student
	Form     int
	sections map[string]func() (rowReader, error)
}

// Has tells whether there are rows of a kind, or could be.
func (a *Archive) Has(name string) bool { return a.sections[name] != nil }

// rowReader gives one row after the other, then io.EOF.
type rowReader interface {
	next() (json.RawMessage, error)
	io.Closer
}

// Limits of an export that is taken in.
const (
	maxRow  = 2 << 20  // bytes of a row: a sheet with every character escaped
	maxRead = 4 << 30  // bytes of all rows
	maxRows = 20 << 20 // of one kind
)

// ErrNoArchive means that a file is no export.
var ErrNoArchive = errors.New("it is neither an export of a studio nor of a student")

// OpenArchive opens an export of so many bytes. The reader is used until it is done with.
func OpenArchive(r io.ReaderAt, size int64) (*Archive, error) {
	head := make([]byte, 4)
	if n, err := r.ReadAt(head, 0); n < len(head) {
		return nil, errors.Join(ErrNoArchive, err)
	}
	if bytes.HasPrefix(head, []byte("PK")) {
		return openZip(r, size)
	}
	return openObject(r, size)
}

func openZip(r io.ReaderAt, size int64) (*Archive, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrNoArchive, err)
	}
	a := &Archive{sections: map[string]func() (rowReader, error){}}
	total := uint64(0)
	for _, f := range z.File {
		if total += f.UncompressedSize64; total > maxRead || f.UncompressedSize64 > maxRead {
			return nil, fmt.Errorf("it is larger than %d GB when it is unpacked", int64(maxRead)>>30)
		}
		name, ok := bytes.CutSuffix([]byte(f.Name), []byte(".jsonl"))
		if f.Name == headerFile {
			if err := readHeader(f, a); err != nil {
				return nil, err
			}
		} else if ok {
			if a.sections[string(name)] != nil {
				return nil, fmt.Errorf("%s is in it twice", f.Name)
			}
			a.sections[string(name)] = func() (rowReader, error) {
				in, err := f.Open()
				if err != nil {
					return nil, err
				}
				return &lineReader{in, bufio.NewReaderSize(io.LimitReader(in, maxRead), 64<<10), f.Name, 0}, nil
			}
		}
	}
	if a.Form == 0 {
		return nil, ErrNoArchive
	}
	return a, nil
}

func readHeader(f *zip.File, a *Archive) error {
	in, err := f.Open()
	if err != nil {
		return err
	}
	defer in.Close()
	var h Header
	if err := json.NewDecoder(io.LimitReader(in, 4<<10)).Decode(&h); err != nil || h.Of != "studio" && h.Of != "student" {
		return ErrNoArchive
	}
	if h.Form != exportForm {
		return fmt.Errorf("it is of form %d, from another Valleyside; this one knows form %d", h.Form, exportForm)
	}
	a.Form, a.Whole = h.Form, h.Of == "studio"
	return nil
}

// lineReader reads JSON lines.
type lineReader struct {
	io.Closer
	in   *bufio.Reader
	name string
	line int
}

func (l *lineReader) next() (json.RawMessage, error) {
	var row []byte
	for {
		piece, err := l.in.ReadSlice('\n')
		row = append(row, piece...)
		if len(row) > maxRow {
			return nil, fmt.Errorf("%s, line %d: longer than %d MB", l.name, l.line+1, maxRow>>20)
		}
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			continue
		case err == io.EOF && len(bytes.TrimSpace(row)) == 0:
			return nil, io.EOF
		case err != nil && err != io.EOF:
			return nil, fmt.Errorf("%s, line %d: %w", l.name, l.line+1, err)
		}
		if l.line++; len(bytes.TrimSpace(row)) == 0 {
			row = row[:0]
			continue
		}
		return row, nil
	}
}

// openObject opens an export as it was written once. It is gone through to find where its
// lists are.
func openObject(r io.ReaderAt, size int64) (*Archive, error) {
	a := &Archive{Form: 1, sections: map[string]func() (rowReader, error){}}
	d := json.NewDecoder(io.NewSectionReader(r, 0, size))
	bad := func(err error) error { return fmt.Errorf("%w: %w", ErrNoArchive, err) }
	if t, err := d.Token(); err != nil || t != json.Delim('{') {
		return nil, errors.Join(ErrNoArchive, err)
	}
	for d.More() {
		t, err := d.Token()
		if err != nil {
			return nil, bad(err)
		}
		name, _ := t.(string)
		from := d.InputOffset()
		if name == "studio" || name == "student" {
			var row json.RawMessage
			if err := d.Decode(&row); err != nil {
				return nil, bad(err)
			}
			if string(row) == "null" {
				continue
			}
			a.Whole = a.Whole || name == "studio"
			a.sections[name] = func() (rowReader, error) { return &listReader{rows: []json.RawMessage{row}}, nil }
			continue
		}
		if err := skipList(d); err != nil {
			return nil, bad(err)
		}
		section := io.NewSectionReader(r, from, d.InputOffset()-from)
		a.sections[name] = func() (rowReader, error) {
			return newListReader(name, io.NewSectionReader(section, 0, section.Size()))
		}
	}
	if a.sections["student"] != nil {
		a.Whole = false
	}
	if a.sections["studio"] == nil && a.sections["student"] == nil {
		return nil, ErrNoArchive
	}
	return a, nil
}

// skipList reads past a list, one of its values in memory; null is an empty one.
func skipList(d *json.Decoder) error {
	t, err := d.Token()
	if err != nil || t == nil {
		return err
	}
	if t != json.Delim('[') {
		return fmt.Errorf("%v where a list should be", t)
	}
	var row json.RawMessage
	for d.More() {
		if err := d.Decode(&row); err != nil {
			return err
		}
	}
	_, err = d.Token()
	return err
}

// listReader reads the values of a list, whose first bytes are the colon before it; or the
// rows that it has.
type listReader struct {
	rows []json.RawMessage
	name string
	d    *json.Decoder
	n    int
}

func newListReader(name string, in io.Reader) (*listReader, error) {
	b := bufio.NewReader(in)
	for {
		c, err := b.ReadByte()
		if err != nil {
			return &listReader{}, nil
		}
		if c == '[' {
			break
		}
		if c == 'n' { // null
			return &listReader{}, nil
		}
	}
	d := json.NewDecoder(io.MultiReader(bytes.NewReader([]byte("[")), b))
	_, err := d.Token()
	return &listReader{name: name, d: d}, err
}

func (l *listReader) next() (row json.RawMessage, err error) {
	if l.d == nil {
		if l.n == len(l.rows) {
			return nil, io.EOF
		}
		l.n++
		return l.rows[l.n-1], nil
	}
	if !l.d.More() {
		return nil, io.EOF
	}
	l.n++
	if err := l.d.Decode(&row); err != nil {
		return nil, fmt.Errorf("%s, number %d: %w", l.name, l.n, err)
	}
	if len(row) > maxRow {
		return nil, fmt.Errorf("%s, number %d: longer than %d MB", l.name, l.n, maxRow>>20)
	}
	return row, nil
}

func (l *listReader) Close() error { return nil }

// Each gives the rows of a kind to f, one after the other, until it fails; one that cannot
// be read is an error that says where it stands. What is checked is read by the same type as
// what is taken in, or a row could pass that cannot be.
func Each[T any](a *Archive, name string, f func(row *T) error) error {
	open := a.sections[name]
	if open == nil {
		return nil
	}
	in, err := open()
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	defer in.Close()
	for n := 1; ; n++ {
		raw, err := in.next()
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return err
		}
		if n > maxRows {
			return fmt.Errorf("%s: more than %d rows", name, maxRows)
		}
		var row T
		if err := json.Unmarshal(raw, &row); err != nil {
			return fmt.Errorf("%s, row %d: %w", name, n, err)
		}
		if err := f(&row); err != nil {
			return err
		}
	}
}
