package plain

import (
	"regexp"
	"strings"

	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// Settings as people write them who know of no form: "Key of G", "Drop D tuning", "Tuned down 1/2
// step", "120 bpm", "3/4 time".
var (
	keyWords    = regexp.MustCompile(`(?i)^(?:in\s+)?(?:the\s+)?key\s*(?:of|is|-|:|=)?\s*([a-g][#b♯♭]?)\s*-?\s*(m|min|minor|maj|major)?\.?$`)
	downWords   = regexp.MustCompile(`(?i)^(?:all\s+)?(?:guitars?\s+)?(?:tun(?:e|ed|ing)\b)?\s*:?-?\s*(?:down\s+)?(?:an?\s+|one\s+)?(1/2|½|half|1|whole|full)?[\s-]*(?:a\s+)?(step|tone|semi-?tone)s?(?:\s+(?:down|lower|flat))?$`)
	tuningWords = regexp.MustCompile(`(?i)^(?:tuning|tune|tuned)?\s*(?:to|in|is|-|:|=)?\s*(.+?)\s*(?:tuning)?$`)
	bpmWords    = regexp.MustCompile(`(?i)^(?:[♩q]\s*=\s*)?(\d{2,3}(?:\.\d+)?)\s*(?:bpm|beats per minute)$|^[♩q]\s*=\s*(\d{2,3}(?:\.\d+)?)$`)
	timeWords   = regexp.MustCompile(`(?i)^(?:time(?:\s+signature)?\s*[:=]?\s*)?(\d{1,2}/\d{1,2})(?:\s+time)?$`)
	feelWords   = regexp.MustCompile(`(?i)^(swing|swung|shuffle|straight)(?:\s+(?:feel|eighths|8ths))?$`)
	capoRoman   = regexp.MustCompile(`(?i)^capo\s*:?\s*(?:on|at)?\s*(i{1,3}|iv|vi{0,3}|ix|x)$`)
	noCapo      = regexp.MustCompile(`(?i)^(?:no|without)\s+capo$`)
	bracketed   = regexp.MustCompile(`\s*\([^)]*\)\s*`)
)

var romans = map[string]string{"i": "1", "ii": "2", "iii": "3", "iv": "4", "v": "5", "vi": "6", "vii": "7", "viii": "8", "ix": "9", "x": "10"}

// loose reads a line that says a setting in its own words; name is empty where it does not.
func loose(line string) (name, value string) {
	if m := keyWords.FindStringSubmatch(line); m != nil {
		mode := "major"
		if w := strings.ToLower(m[2]); m[2] == "m" || strings.HasPrefix(w, "min") {
			mode = "minor"
		}
		key := strings.ToUpper(m[1][:1]) + strings.NewReplacer("♯", "#", "♭", "b").Replace(m[1][1:]) + " " + mode
		if _, err := pitch.ParseKey(key); err == nil {
			return "key", key
		}
	}
	if m := bpmWords.FindStringSubmatch(line); m != nil {
		return "tempo", m[1] + m[2]
	}
	if m := timeWords.FindStringSubmatch(line); m != nil {
		return "time", m[1]
	}
	if m := feelWords.FindStringSubmatch(line); m != nil {
		if strings.EqualFold(m[1], "straight") {
			return "feel", "straight"
		}
		return "feel", "swing"
	}
	if m := capoRoman.FindStringSubmatch(line); m != nil {
		return "capo", romans[strings.ToLower(m[1])]
	}
	if noCapo.MatchString(line) {
		return "capo", "0"
	}
	if t := tuningOf(line); t != "" && (strings.ContainsAny(line, " ") || strings.EqualFold(line, "dadgad")) {
		return "tuning", t
	}
	return "", ""
}

// tuningOf is the name of a tuning that a line means, as neck.Parse reads it; empty where it means
// none.
func tuningOf(line string) string {
	line = strings.TrimSpace(bracketed.ReplaceAllString(line, " "))
	if m := downWords.FindStringSubmatch(line); m != nil && (strings.Contains(strings.ToLower(line), "down") || strings.Contains(strings.ToLower(line), "lower") || strings.Contains(strings.ToLower(line), "flat")) {
		switch size, what := strings.ToLower(m[1]), strings.ToLower(m[2]); {
		case size == "1/2" || size == "½" || size == "half" || strings.HasPrefix(what, "semi"):
			return "half step down"
		default:
			return "whole step down"
		}
	}
	for _, try := range []string{line, strings.ReplaceAll(line, "-", " "), strings.ReplaceAll(strings.ToLower(line), "dropped", "drop")} {
		m := tuningWords.FindStringSubmatch(try)
		if m == nil {
			continue
		}
		if _, err := neck.Parse(m[1]); err == nil {
			return m[1]
		}
	}
	return ""
}
