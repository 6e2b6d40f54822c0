package web

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"embed"
	"encoding/base64"
	"html/template"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/labstack/echo/v5"
)

// The files that the browser gets, built by web/frontend.
//
//go:embed static
var staticFiles embed.FS

// file is a static file, compressed once.
type file struct {
	body, packed []byte // packed is nil where it saves nothing
	kind, tag    string
}

// files holds every static file by its address.
var files = func() map[string]file {
	all := map[string]file{}
	err := fs.WalkDir(staticFiles, "static", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		body, err := staticFiles.ReadFile(name)
		if err != nil {
			return err
		}
		sum := sha256.Sum256(body)
		f := file{body: body, tag: base64.RawURLEncoding.EncodeToString(sum[:9]), kind: mime.TypeByExtension(path.Ext(name))}
		if path.Ext(name) == ".woff2" {
			f.kind = "font/woff2"
		} else {
			var b bytes.Buffer
			z, _ := gzip.NewWriterLevel(&b, gzip.BestCompression)
			z.Write(body)
			z.Close()
			f.packed = b.Bytes()
		}
		all["/"+name] = f
		return nil
	})
	if err != nil {
		panic(err)
	}
	return all
}()

// asset is the address of a static file, with its content's mark, so that
// browsers may keep it for good.
func asset(name string) string {
	address := "/static/" + name
	return address + "?v=" + files[address].tag
}

func serveStatic(c *echo.Context) error {
	f, ok := files[c.Request().URL.Path]
	if !ok {
		return echo.ErrNotFound
	}
	h := c.Response().Header()
	h.Set("Cache-Control", "public, max-age=31536000, immutable")
	h.Set("ETag", `"`+f.tag+`"`)
	h.Set("Vary", "Accept-Encoding")
	if c.Request().Header.Get("If-None-Match") == `"`+f.tag+`"` {
		return c.NoContent(http.StatusNotModified)
	}
	if f.packed != nil && strings.Contains(c.Request().Header.Get("Accept-Encoding"), "gzip") {
		h.Set("Content-Encoding", "gzip")
		return c.Blob(http.StatusOK, f.kind, f.packed)
	}
	return c.Blob(http.StatusOK, f.kind, f.body)
}

// serveWorker serves the script that keeps students' pages on their devices. Its address
// has no mark of its content, so it is asked for again each time.
func serveWorker(c *echo.Context) error {
	f := files["/static/worker.js"]
	c.Response().Header().Set("Cache-Control", "no-cache")
	return c.Blob(http.StatusOK, f.kind, f.body)
}

// icon is a picture from the icon set, drawn in the colour of the text.
func icon(name string) template.HTML {
	return template.HTML(files["/static/icons/"+name+".svg"].body)
}
