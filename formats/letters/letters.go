// Package letters reads the letters of texts from elsewhere, in whatever encoding they were saved.
package letters

import (
	"bytes"
	"errors"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// Decoded is the text of a file in UTF-8, in UTF-16, or in the encoding of old Windows programs
// (Windows-1252, of which Latin-1 is part), without a byte order mark and with lines that end as
// ours do. Every text from elsewhere comes in by this door.
func Decoded(data []byte) (string, error) {
	var from encoding.Encoding
	switch {
	case bytes.HasPrefix(data, []byte("\ufeff")):
		data = data[len("\ufeff"):]
	case bytes.HasPrefix(data, []byte{0xff, 0xfe}), zeros(data, 1):
		from = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	case bytes.HasPrefix(data, []byte{0xfe, 0xff}), zeros(data, 0):
		from = unicode.UTF16(unicode.BigEndian, unicode.UseBOM)
	case !utf8.Valid(data):
		from = charmap.Windows1252
	}
	if from != nil {
		var err error
		if data, err = from.NewDecoder().Bytes(data); err != nil {
			return "", errors.New("its letters cannot be read; save it as UTF-8")
		}
	}
	data = bytes.ReplaceAll(data, []byte("\r\n"), []byte("\n"))
	return string(bytes.ReplaceAll(data, []byte("\r"), []byte("\n"))), nil
}

// zeros tells whether of each two bytes one is 0, as in English text in UTF-16 without its mark.
func zeros(data []byte, which int) bool {
	const enough = 8
	n := min(len(data), 512) / 2 * 2
	for i := 0; i < n; i += 2 {
		if data[i+which] != 0 || data[i+1-which] == 0 {
			return false
		}
	}
	return n >= enough
}
