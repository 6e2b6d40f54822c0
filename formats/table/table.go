// Package table writes and reads rows as comma-separated values (RFC 4180), with a header
// line that names the columns, as spreadsheets do it.
package table

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"valleyside/formats/letters"
)

// Column is a column of rows of a kind.
type Column[T any] struct {
	Name string
	Get  func(*T) string
	// Set reads a cell; its error says what the cell must be. It is nil for a column that
	// is only written.
	Set func(*T, string) error
	// Must tells that a table without the column cannot be read.
	Must bool
}

// Write writes rows under a header. A cell that a spreadsheet would take for a formula
// gets an apostrophe in front, which Read takes away.
func Write[T any](w io.Writer, columns []Column[T], rows []T) error {
	c := csv.NewWriter(w)
	c.UseCRLF = true
	line := make([]string, len(columns))
	for i := range columns {
		line[i] = columns[i].Name
	}
	if err := c.Write(line); err != nil {
		return err
	}
	for i := range rows {
		for k := range columns {
			line[k] = harmless(columns[k].Get(&rows[i]))
		}
		if err := c.Write(line); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}

// formulas are the signs with which formulas begin.
const formulas = "=+-@\t\r"

func harmless(s string) string {
	if s != "" && strings.Contains(formulas, s[:1]) {
		return "'" + s
	}
	return s
}

func restored(s string) string {
	if len(s) > 1 && s[0] == '\'' && strings.Contains(formulas, s[1:2]) {
		return s[1:]
	}
	return s
}

// Fault is something wrong with a table.
type Fault struct {
	Line    int // of the file, from 1
	Message string
}

func (f Fault) String() string { return fmt.Sprintf("line %d: %s", f.Line, f.Message) }

// Limits of what is read.
const (
	MaxBytes   = 5 << 20
	maxRows    = 20_000
	mostFaults = 50
)

// Read reads the rows of a table, its cells parted by commas, semicolons or tabs. Columns
// that are not known are listed in unknown. Where there are faults, nothing should be made
// of the rows.
func Read[T any](data []byte, columns []Column[T]) (rows []T, unknown []string, faults []Fault) {
	say := func(line int, format string, a ...any) {
		if len(faults) < mostFaults {
			faults = append(faults, Fault{line, fmt.Sprintf(format, a...)})
		}
	}
	if len(data) > MaxBytes {
		say(1, "the table has more than %d MB", MaxBytes>>20)
		return nil, nil, faults
	}
	text, err := letters.Decoded(data)
	if err != nil {
		say(1, "%s", err)
		return nil, nil, faults
	}
	c := csv.NewReader(strings.NewReader(text))
	c.Comma = comma(text)
	c.FieldsPerRecord = -1
	header, err := c.Read()
	if err != nil {
		say(1, "there is no header line: the first line names the columns")
		return nil, nil, faults
	}
	of := make([]int, len(header))
	for i, name := range header {
		name = strings.TrimSpace(strings.ToLower(name))
		of[i] = slices.IndexFunc(columns, func(c Column[T]) bool { return c.Name == name && c.Set != nil })
		if of[i] < 0 && name != "" && !slices.ContainsFunc(columns, func(c Column[T]) bool { return c.Name == name }) {
			unknown = append(unknown, name)
		}
	}
	for k, col := range columns {
		if col.Must && !slices.Contains(of, k) {
			say(1, "there is no column called %s", col.Name)
		}
	}
	for len(faults) < mostFaults {
		cells, err := c.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		line := len(rows) + 2
		if len(cells) > 0 {
			line, _ = c.FieldPos(0)
		}
		if err != nil {
			var wrong *csv.ParseError
			if errors.As(err, &wrong) {
				line = wrong.Line
			}
			say(line, "the line cannot be read: a quotation mark is missing or too many")
			break
		}
		if len(rows) == maxRows {
			say(line, "there are more than %d rows", maxRows)
			break
		}
		var row T
		for i, cell := range cells {
			if cell = restored(strings.TrimSpace(cell)); i >= len(of) || of[i] < 0 || cell == "" && !columns[of[i]].Must {
				continue
			}
			if err := columns[of[i]].Set(&row, cell); err != nil {
				say(line, "%s: %s", columns[of[i]].Name, err)
			}
		}
		rows = append(rows, row)
	}
	return rows, unknown, faults
}

// comma is what parts the cells of a table, as its first line has it.
func comma(text string) rune {
	line, _, _ := strings.Cut(text, "\n")
	best, most := ',', strings.Count(line, ",")
	for _, sign := range ";\t" {
		if n := strings.Count(line, string(sign)); n > most {
			best, most = sign, n
		}
	}
	return best
}
