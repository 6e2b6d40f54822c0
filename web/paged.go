package web

import (
	"net/url"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/labstack/echo/v5"
)

// onPage is how many songs or students are on a page of their list.
const onPage = 25

// paged is a page of a list, in which something may be looked for.
type paged struct {
	Path           string // of the list
	Find           string
	Before, Beyond int        // the pages around it, from 1; 0 is none
	Only           url.Values // what else is asked for in the list

	rows int // on a page at most
}

// pageOf reads which page of a list is asked for, and what is looked for in it.
func pageOf(c *echo.Context, path string, rows int) paged {
	const mostFind = 80
	n, _ := strconv.Atoi(c.QueryParam("page"))
	n = min(max(n, 1), 100_000)
	find := strings.TrimSpace(c.QueryParam("find"))
	if utf8.RuneCountInString(find) > mostFind || !utf8.ValidString(find) {
		find = ""
	}
	return paged{Path: path, Find: find, Before: n - 1, rows: rows}
}

// span is how many rows to read, from which on: one more than are shown tells whether there
// are any beyond them.
func (p *paged) span() (most, offset int) { return p.rows + 1, p.Before * p.rows }

// Turn is the address of a page of the list.
func (p paged) Turn(page int) string {
	q := url.Values{}
	for name, values := range p.Only {
		q[name] = values
	}
	if page > 1 {
		q.Set("page", strconv.Itoa(page))
	}
	if p.Find != "" {
		q.Set("find", p.Find)
	}
	if len(q) == 0 {
		return p.Path
	}
	return p.Path + "?" + q.Encode()
}

// only reads what else is asked for in a list, by names of fields, and keeps it for its other
// pages.
func (p *paged) only(c *echo.Context, names ...string) {
	const mostOnly = 200
	for _, name := range names {
		if v := strings.TrimSpace(c.QueryParam(name)); v != "" && len(v) <= mostOnly && utf8.ValidString(v) {
			if p.Only == nil {
				p.Only = url.Values{}
			}
			p.Only.Set(name, v)
		}
	}
}

// Shown tells whether there is anything to turn or to look for.
func (p paged) Shown() bool { return p.Before > 0 || p.Beyond > 0 || p.Find != "" || len(p.Only) > 0 }

// cut keeps those of the rows that were read that are on the page.
func cut[T any](p *paged, rows []T) []T {
	if len(rows) <= p.rows {
		return rows
	}
	p.Beyond = p.Before + 2
	return rows[:p.rows]
}
