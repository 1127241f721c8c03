package api

import (
	"io/fs"
	"net/http"
	"path"
	"strings"
)

// pageHandler serves the built front end; addresses that are screens get the one page.
func pageHandler(files fs.FS) http.Handler {
	server := http.FileServerFS(files)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
		if info, err := fs.Stat(files, name); err == nil && !info.IsDir() && name != "index.html" {
			if strings.HasPrefix(name, "assets/") {
				w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			} else {
				w.Header().Set("Cache-Control", "no-cache") // the service worker above all
			}
			server.ServeHTTP(w, r)
			return
		}
		if strings.HasPrefix(name, "assets/") {
			writeProblem(w, r, http.StatusNotFound, "There is nothing at this address.", nil)
			return
		}
		page, err := fs.ReadFile(files, "index.html")
		if err != nil {
			writeProblem(w, r, http.StatusNotFound, "The front end has not been built: run make build.", nil)
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Cache-Control", "no-cache")
		_, _ = w.Write(page)
	})
}
