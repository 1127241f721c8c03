package api_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// height orders the packages: one may import only what is lower than itself. Only core packages and the tests' own may
// import others of their height: rooms are siblings, and where one must reach another it takes an interface.
var height = map[string]int{
	"core": 0, "web": 0, "internal/optional": 0,
	"internal/contract": 1, "internal/defaults": 1, "internal/exchange": 1, "internal/pg": 1, "internal/instrument": 1, "internal/weather": 1,
	"internal/post": 1, "internal/wording": 2, "internal/calc": 3, "internal/standin": 2, "internal/proof": 2, "internal/store": 2,
	"internal/organisation": 3,
	"internal/dossier":      4, "internal/outbox": 4, "internal/importing": 4,
	"internal/dossier/load": 5,
	"internal/register":     6, "internal/learning": 6, "internal/fieldwork": 6, "internal/planning": 6,
	"internal/rooms": 7,
	"internal/api":   8, "internal/demo": 8,
	"cmd": 9, "internal/pg/pgtest": 9, "internal/rooms/roomstest": 10, "internal/pg/withpostgres": 10, "e2e": 10,
}

func heightOf(dir string) (int, string, bool) {
	best := ""
	for name := range height {
		if (dir == name || strings.HasPrefix(dir, name+"/")) && len(name) > len(best) {
			best = name
		}
	}
	return height[best], best, best != ""
}

func TestNoPackageImportsUpward(t *testing.T) {
	root, err := filepath.Abs("../..")
	require.NoError(t, err)
	files := 0
	err = filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == "tools" || strings.HasPrefix(d.Name(), ".") && path != root) {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		files++
		dir, err := filepath.Rel(root, filepath.Dir(path))
		require.NoError(t, err)
		mine, group, known := heightOf(filepath.ToSlash(dir))
		if !assert.True(t, known, "%s: give the new package a height here", dir) {
			return nil
		}
		parsed, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, spec := range parsed.Imports {
			name, _ := strconv.Unquote(spec.Path.Value)
			if group == "core" {
				standard := !strings.Contains(strings.SplitN(name, "/", 2)[0], ".")
				own := strings.HasPrefix(name, "nextround/core/")
				assert.True(t, own || strings.HasPrefix(name, "gonum.org/") || (standard && !strings.HasPrefix(name, "nextround/")),
					"%s imports %s: the core knows nobody", dir, name)
				for _, outside := range []string{"os", "net", "net/http", "database/sql"} {
					assert.NotEqual(t, outside, name, "%s does input or output", dir)
				}
			}
			theirs, other, ours := heightOf(strings.TrimPrefix(name, "nextround/"))
			if !strings.HasPrefix(name, "nextround/") || !ours || group == other {
				continue
			}
			assert.Less(t, theirs, mine, "%s imports %s, which is not below it", dir, name)
		}
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, files, 40, "the tree was read")
	_, err = os.Stat(filepath.Join(root, "go.mod"))
	require.NoError(t, err)
}
