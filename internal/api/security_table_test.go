package api_test

import (
	"io/fs"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Each test that docs/security.md points at is there.
func TestWhatTheSecurityTableIsShownByIsThere(t *testing.T) {
	root := os.DirFS("../..")
	table, err := fs.ReadFile(root, "docs/security.md")
	require.NoError(t, err)
	named := map[string]bool{}
	for _, m := range regexp.MustCompile("`((?:Test|Fuzz)[A-Za-z]+)`").FindAllStringSubmatch(string(table), -1) {
		named[m[1]] = true
	}
	assert.Greater(t, len(named), 50)
	declared := regexp.MustCompile(`(?m)^func ((?:Test|Fuzz)\w+)\(`)
	err = fs.WalkDir(root, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && (d.Name() == "node_modules" || d.Name() == "build" || d.Name() == ".local") {
			return fs.SkipDir
		}
		if strings.HasSuffix(path, "_test.go") {
			text, err := fs.ReadFile(root, path)
			if err != nil {
				return err
			}
			for _, m := range declared.FindAllSubmatch(text, -1) {
				delete(named, string(m[1]))
			}
		}
		return nil
	})
	require.NoError(t, err)
	assert.Empty(t, named, "named in docs/security.md and not there")
}
