package account

import (
	"crypto/rand"
	"crypto/sha256"
	"strings"
)

// Codes is how many recovery codes a teacher gets.
const Codes = 8

// alphabet of the codes: no letter or digit that looks like another on paper.
const alphabet = "23456789abcdefghjkmnpqrstuvwxyz"

// codeLength is how many signs a code has: 77 bits, which need no slow hash.
const codeLength = 16

// NewCodes makes recovery codes to print, in groups of four.
func NewCodes() []string {
	codes := make([]string, Codes)
	for i := range codes {
		var b strings.Builder
		for b.Len() < codeLength+codeLength/4-1 {
			if b.Len()%5 == 4 {
				b.WriteByte('-')
			}
			b.WriteByte(alphabet[random(len(alphabet))])
		}
		codes[i] = b.String()
	}
	return codes
}

// random is a number from 0 to before n, all equally likely.
func random(n int) int {
	limit := 256 - 256%n
	for {
		var b [1]byte
		rand.Read(b[:])
		if int(b[0]) < limit {
			return int(b[0]) % n
		}
	}
}

// HashCode is what is kept of a code, however it is typed.
func HashCode(code string) []byte {
	clean := strings.Map(func(r rune) rune {
		if strings.ContainsRune(alphabet, r) {
			return r
		}
		return -1
	}, strings.ToLower(code))
	sum := sha256.Sum256([]byte(clean))
	return sum[:]
}
