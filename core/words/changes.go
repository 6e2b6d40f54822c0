package words

import (
	"fmt"
	"strings"

	"valleyside/core/song"
)

// PartChange says what has become of a part of a song that was changed; nothing where it is as
// it was.
func (sp Speaker) PartChange(c song.Outcome) string {
	changed := ""
	if n := len(c.Bars); n > 0 {
		changed = count(n, "bar") + " changed"
		if n <= 4 {
			var numbers []string
			for _, b := range c.Bars {
				numbers = append(numbers, fmt.Sprint(b))
			}
			changed = strings.TrimPrefix(count(n, "bar"), number(n)+" ") + " " + list(numbers) + " changed"
		}
	}
	switch c.Fate {
	case song.Kept:
		if changed == "" {
			return ""
		}
		return c.Name + ": " + changed
	case song.Renamed:
		return c.Name + " is called " + c.Into[0] + " now" + either(changed == "", "", ", "+changed)
	case song.Parted:
		return c.Name + " stands in " + list(c.Into) + " now"
	case song.Gone:
		return c.Name + " is not there any more"
	}
	return c.Name + " is new"
}
