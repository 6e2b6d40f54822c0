package account

import (
	"encoding/base64"
	"fmt"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"golang.org/x/crypto/argon2"
)

func TestPasswords(t *testing.T) {
	hash := Hash("quiet-hillside")
	assert.Regexp(t, `^\$argon2id\$v=19\$m=19456,t=2,p=1\$`, hash)
	assert.NotEqual(t, hash, Hash("quiet-hillside"), "a salt of its own")
	assert.True(t, Matches(hash, "quiet-hillside"))
	assert.False(t, Matches(hash, "quiet-hillsid"))
	// As it was written before.
	salt := []byte("sixteen bytes of")
	old := fmt.Sprintf("argon2id$19456$2$%s$%s", base64.RawStdEncoding.EncodeToString(salt),
		base64.RawStdEncoding.EncodeToString(argon2.IDKey([]byte("quiet-hillside"), salt, 2, 19456, 1, 32)))
	assert.True(t, Matches(old, "quiet-hillside"))
	assert.False(t, Matches(old, "wrong"))
	for _, broken := range []string{"", "argon2id$", "argon2id$x$y$z$w", "argon2id$0$0$AAAA$AAAA", "$argon2id$v=19$m=1,t=1,p=1$x$y"} {
		assert.False(t, Matches(broken, "quiet-hillside"), broken)
	}
	assert.False(t, MatchesNobody("nobody"))
	assert.Len(t, Random(16), 22)
}

func TestCodes(t *testing.T) {
	codes := NewCodes()
	assert.Len(t, codes, Codes)
	seen := map[string]bool{}
	for _, c := range codes {
		assert.Regexp(t, regexp.MustCompile(`^[2-9a-z]{4}(-[2-9a-z]{4}){3}$`), c)
		assert.NotRegexp(t, `[01ilo]`, c)
		assert.False(t, seen[c])
		seen[c] = true
	}
	assert.Equal(t, HashCode(codes[0]), HashCode(" "+codes[0][:4]+" "+codes[0][5:]+"\n"), "however it is typed")
	assert.NotEqual(t, HashCode(codes[0]), HashCode(codes[1]))
}

func TestNetwork(t *testing.T) {
	assert.Equal(t, Network("203.0.113.7"), Network("203.0.113.99"))
	assert.NotEqual(t, Network("203.0.113.7"), Network("203.0.114.7"))
	assert.Equal(t, Network("203.0.113.7"), Network("::ffff:203.0.113.7"))
	assert.Equal(t, Network("2001:db8::1"), Network("2001:db8::ffff:1"))
	assert.Equal(t, "somewhere", Network("somewhere"))
}
