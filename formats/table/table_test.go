package table

import (
	"bytes"
	"errors"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

type row struct {
	Name string
	Age  int
}

var columns = []Column[row]{
	{Name: "name", Must: true, Get: func(r *row) string { return r.Name }, Set: func(r *row, s string) error {
		if r.Name = s; s == "" {
			return errors.New("a name is missing")
		}
		return nil
	}},
	{Name: "age", Get: func(r *row) string { return strconv.Itoa(r.Age) }, Set: func(r *row, s string) (err error) {
		if r.Age, err = strconv.Atoi(s); err != nil {
			return errors.New("write a number")
		}
		return nil
	}},
	{Name: "made", Get: func(*row) string { return "2026-03-20" }},
}

// Whatever is written comes back, quotation marks, line ends and formulas as well.
func TestRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rows := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) row {
			return row{rapid.StringMatching(`[=+@'"a-zäß,;\n-][=+@'"a-zäß,; \n-]{0,8}[a-z]`).Draw(t, "name"), rapid.Int().Draw(t, "age")}
		}), 0, 5).Draw(t, "rows")
		var b bytes.Buffer
		require.NoError(t, Write(&b, columns, rows))
		got, unknown, faults := Read(b.Bytes(), columns)
		require.Empty(t, faults, b.String())
		require.Empty(t, unknown)
		require.Len(t, got, len(rows))
		for i := range rows {
			if rows[i].Name[0] != '\'' && rows[i].Name[0] != '\n' {
				assert.Equal(t, rows[i], got[i], b.String())
			}
		}
	})
}

// A spreadsheet finds no formula in what a student wrote.
func TestFormulasAreHarmless(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, Write(&b, columns, []row{{`=HYPERLINK("x")`, -3}}))
	assert.Equal(t, "name,age,made\r\n\"'=HYPERLINK(\"\"x\"\")\",'-3,2026-03-20\r\n", b.String())
}

func TestRead(t *testing.T) {
	for text, want := range map[string][]row{
		"name,age\nPia,9\n":                       {{"Pia", 9}},
		"\ufeffAge; Name ;shoes\n9;Pia;35\n;Bo\n": {{"Pia", 9}, {"Bo", 0}},
		"name\tage\nPia\t9\n":                     {{"Pia", 9}},
		"name,age\r\n\xc5se,9\r\n":                {{"Åse", 9}}, // of an old Windows program
	} {
		rows, _, faults := Read([]byte(text), columns)
		assert.Empty(t, faults, text)
		assert.Equal(t, want, rows, text)
	}
	_, unknown, _ := Read([]byte("name,shoes\nPia,35\n"), columns)
	assert.Equal(t, []string{"shoes"}, unknown)
	for text, want := range map[string]string{
		"":                        "line 1: there is no header line",
		"age\n9\n":                "line 1: there is no column called name",
		"name,age\nPia,9\nBo,x\n": "line 3: age: write a number",
		"name,age\nPia,9\n,4\n":   "line 3: name: a name is missing",
		"name\n\"Pia\n":           "a quotation mark is missing",
	} {
		_, _, faults := Read([]byte(text), columns)
		require.NotEmpty(t, faults, text)
		assert.Contains(t, faults[0].String(), want)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("name,age\nPia,9\n"))
	f.Add([]byte("name;age\n\"Pi\"\"a\";9\n"))
	f.Fuzz(func(t *testing.T, data []byte) { Read(data, columns) })
}
