package web

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Values for a template have names, all of them.
func TestArgs(t *testing.T) {
	named, err := args("to", "/", "what", 1)
	require.NoError(t, err)
	assert.Equal(t, map[string]any{"to": "/", "what": 1}, named)
	_, err = args("to")
	assert.ErrorContains(t, err, "without a value")
	_, err = args(1, 2)
	assert.ErrorContains(t, err, "no name")
}
