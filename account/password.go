// Package account holds what keeps a teacher's account theirs: passwords,
// recovery codes, and limits on how often either may be tried. It knows nothing
// of pages or of the database.
package account

import (
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	"strings"
	"sync"

	"github.com/alexedwards/argon2id"
	"golang.org/x/crypto/argon2"
)

// MinPassword is the shortest password, in characters.
const MinPassword = 10

// cost of a password hash: 19 MiB and two passes, of which two at a time keep the
// memory bounded.
var cost = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

var hashing = make(chan struct{}, 2)

// Hash hashes a password, or another secret, with argon2id and a random salt.
func Hash(password string) string {
	hashing <- struct{}{}
	defer func() { <-hashing }()
	hash, err := argon2id.CreateHash(password, cost)
	if err != nil {
		panic(fmt.Sprintf("account: no randomness: %v", err)) // crypto/rand never fails
	}
	return hash
}

// Matches tells whether a password is the one that was hashed.
func Matches(hash, password string) bool {
	hashing <- struct{}{}
	defer func() { <-hashing }()
	if strings.HasPrefix(hash, "argon2id$") {
		return matchesOld(hash, password)
	}
	ok, err := argon2id.ComparePasswordAndHash(password, hash)
	return err == nil && ok
}

// matchesOld compares with a hash as they were written before: the memory, the
// passes, the salt and the key between dollar signs.
func matchesOld(hash, password string) bool {
	fields := strings.Split(hash, "$")
	if len(fields) != 5 {
		return false
	}
	var memory, passes uint32
	fmt.Sscan(fields[1], &memory) //nolint:errcheck // 0 is refused
	fmt.Sscan(fields[2], &passes) //nolint:errcheck // 0 is refused
	salt, err1 := base64.RawStdEncoding.DecodeString(fields[3])
	want, err2 := base64.RawStdEncoding.DecodeString(fields[4])
	if err1 != nil || err2 != nil || passes == 0 || memory == 0 {
		return false
	}
	return subtle.ConstantTimeCompare(argon2.IDKey([]byte(password), salt, passes, memory, 1, uint32(len(want))), want) == 1
}

// nobody is compared with where an address is not known, so that the answer takes
// as long.
var nobody = sync.OnceValue(func() string { return Hash("nobody") })

// MatchesNobody takes as long as Matches, and is false.
func MatchesNobody(password string) bool {
	Matches(nobody(), password)
	return false
}

// Random is so many random bytes as text that can stand in an address.
func Random(bytes int) string {
	b := make([]byte, bytes)
	rand.Read(b)
	return base64.RawURLEncoding.EncodeToString(b)
}

// HashToken is what is kept of a secret that is random already.
func HashToken(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}
