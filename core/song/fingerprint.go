package song

import (
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"math"
	"reflect"
)

// Fingerprint is the same for values that are alike in everything but the place of their
// events in a sheet: a part has it again when lines are typed above it. Values may be
// built of numbers, words, slices, arrays and structs, as Part is; of anything else it
// panics.
func Fingerprint(values ...any) [sha256.Size]byte {
	b := make([]byte, 0, 4096)
	for _, v := range values {
		b = appendValue(b, reflect.ValueOf(v))
	}
	return sha256.Sum256(b)
}

var eventType = reflect.TypeFor[Event]()

// appendValue writes a value so that no two different ones are written alike.
func appendValue(b []byte, v reflect.Value) []byte {
	switch v.Kind() {
	case reflect.Bool:
		if v.Bool() {
			return append(b, 1)
		}
		return append(b, 0)
	case reflect.Int, reflect.Int8, reflect.Int16, reflect.Int32, reflect.Int64:
		return binary.AppendVarint(b, v.Int())
	case reflect.Uint, reflect.Uint8, reflect.Uint16, reflect.Uint32, reflect.Uint64:
		return binary.AppendUvarint(b, v.Uint())
	case reflect.Float32, reflect.Float64:
		return binary.LittleEndian.AppendUint64(b, math.Float64bits(v.Float()))
	case reflect.String:
		return append(binary.AppendUvarint(b, uint64(v.Len())), v.String()...)
	case reflect.Slice:
		b = binary.AppendUvarint(b, uint64(v.Len()))
		fallthrough
	case reflect.Array:
		for i := range v.Len() {
			b = appendValue(b, v.Index(i))
		}
		return b
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type() == eventType && placed[i] {
				continue
			}
			b = appendValue(b, v.Field(i))
		}
		return b
	}
	panic(fmt.Sprintf("song: a %v has no fingerprint", v.Kind()))
}

// placed are the fields of an Event that say where it stands.
var placed = func() (fields [64]bool) {
	for i := range eventType.NumField() {
		name := eventType.Field(i).Name
		fields[i] = name == "Line" || name == "Column"
	}
	return fields
}()
