package musicxml

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"

	"valleyside/core/play"
	"valleyside/core/song"
)

// The container says where in the archive the score stands.
const (
	containerName = "META-INF/container.xml"
	scoreName     = "score.musicxml"
	containerText = xml.Header + `<container><rootfiles><rootfile full-path="` + scoreName + `" media-type="application/vnd.recordare.musicxml+xml"/></rootfiles></container>` + "\n"
)

// WriteCompressed writes a song as Write does, in an archive.
func WriteCompressed(w io.Writer, s *song.Song, music []play.Music) error {
	z := zip.NewWriter(w)
	z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) { return flate.NewWriter(w, flate.BestSpeed) })
	// The kind of archive stands first and is not compressed, so that it can be told.
	kind, err := z.CreateHeader(&zip.FileHeader{Name: "mimetype", Method: zip.Store})
	if err != nil {
		return err
	}
	if _, err := io.WriteString(kind, "application/vnd.recordare.musicxml"); err != nil {
		return err
	}
	f, err := z.Create(containerName)
	if err != nil {
		return err
	}
	if _, err := io.WriteString(f, containerText); err != nil {
		return err
	}
	if f, err = z.Create(scoreName); err != nil {
		return err
	}
	if err := Write(f, s, music); err != nil {
		return err
	}
	return z.Close()
}

type container struct {
	Files []struct {
		Path string `xml:"full-path,attr"`
	} `xml:"rootfiles>rootfile"`
}

// unzip takes the score out of an archive.
func unzip(data []byte) ([]byte, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, errors.New("the archive is damaged; save the score again")
	}
	name := ""
	if b, err := open(z, containerName, 1<<16); err == nil {
		var c container
		if xml.Unmarshal(b, &c) == nil && len(c.Files) > 0 {
			name = c.Files[0].Path
		}
	}
	for _, f := range z.File {
		if lower := strings.ToLower(f.Name); name == "" && !strings.HasPrefix(lower, "meta-inf/") && (strings.HasSuffix(lower, ".xml") || strings.HasSuffix(lower, ".musicxml")) {
			name = f.Name
		}
	}
	if name == "" {
		return nil, errors.New("there is no score in the archive")
	}
	return open(z, name, MaxBytes)
}

// open reads a file of an archive that is no longer than so many bytes, whatever it says
// of itself.
func open(z *zip.Reader, name string, most int64) ([]byte, error) {
	f, err := z.Open(name)
	if err != nil {
		return nil, errors.New("the archive names a score that is not in it")
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, most+1))
	if err != nil {
		return nil, errors.New("the archive is damaged; save the score again")
	}
	if int64(len(b)) > most {
		return nil, fmt.Errorf("what is in the archive has more than %d MB", most>>20)
	}
	return b, nil
}
