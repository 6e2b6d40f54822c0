package midi

import (
	"encoding/binary"
	"errors"
	"fmt"
)

var errDamaged = errors.New("the file is damaged: it ends in the middle, or says that something is longer than it is")

// check walks through a file and tells whether all that is in it is as long as it says: a
// reader that believes a length makes room for it.
func check(data []byte) error {
	changes := 0
	for rest := data; len(rest) > 0; {
		if len(rest) < 8 {
			return nil // what is behind the last chunk does no harm
		}
		length := int64(binary.BigEndian.Uint32(rest[4:]))
		if length > int64(len(rest)-8) {
			return errDamaged
		}
		if string(rest[:4]) == "MTrk" {
			if err := checkTrack(rest[8:8+length], &changes); err != nil {
				return err
			}
		}
		rest = rest[8+length:]
	}
	return nil
}

// checkTrack walks through the events of a track, and counts where the tempo, the time or the key
// changes.
func checkTrack(b []byte, changes *int) error {
	number := func() (n int, ok bool) { // of up to four bytes
		for i := 0; i < 4 && i < len(b); i++ {
			n = n<<7 | int(b[i]&0x7f)
			if b[i] < 0x80 {
				b = b[i+1:]
				return n, true
			}
		}
		return 0, false
	}
	running := byte(0)
	for len(b) > 0 {
		if _, ok := number(); !ok || len(b) == 0 {
			return errDamaged
		}
		status := b[0]
		if status >= 0x80 {
			b = b[1:]
		} else if status = running; status == 0 {
			return errDamaged
		}
		size := 2
		switch {
		case status == 0xff:
			if len(b) == 0 {
				return errDamaged
			}
			if kind := b[0]; kind == 0x51 || kind == 0x58 || kind == 0x59 {
				if *changes++; *changes > maxChanges {
					return fmt.Errorf("its tempo, time or key changes more than %d times; save it without", maxChanges)
				}
			}
			b = b[1:]
			fallthrough
		case status == 0xf0, status == 0xf7:
			n, ok := number()
			if !ok {
				return errDamaged
			}
			size = n
		case status >= 0xf0:
			return errDamaged // nothing else stands in files
		default:
			running = status
			if kind := status & 0xf0; kind == 0xc0 || kind == 0xd0 {
				size = 1
			}
		}
		if size > len(b) {
			return errDamaged
		}
		b = b[size:]
	}
	return nil
}
