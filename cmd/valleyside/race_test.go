//go:build race

package main

// raced tells that the race detector is built in, which takes several times the memory.
const raced = true
