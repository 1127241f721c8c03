package api_test

import (
	"go/ast"
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
	"core": 0, "web": 0, "internal/optional": 0, "internal/wording": 1,
	"internal/contract": 2, "internal/defaults": 1, "internal/exchange": 3, "internal/pg": 1, "internal/instrument": 1, "internal/weather": 1,
	"internal/post": 1, "internal/visit": 3, "internal/calc": 4, "internal/standin": 2, "internal/proof": 2, "internal/store": 2,
	"internal/organisation": 3, "internal/queue": 3,
	"internal/dossier": 4, "internal/outbox": 4, "internal/importing": 4,
	"internal/dossier/load": 5,
	"internal/register":     6, "internal/learning": 6, "internal/fieldwork": 6, "internal/planning": 6, "internal/evidence": 6,
	"internal/rooms": 7,
	"internal/api":   8, "internal/demo": 8,
	"cmd": 9, "mutants": 9, "internal/pg/pgtest": 9, "internal/rooms/roomstest": 10, "internal/pg/withpostgres": 10, "e2e": 10,
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
					"%s imports %s: the core imports nothing of ours", dir, name)
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

// The second write never runs after the first failed: in a transaction it could only fail too and hide why, outside one it
// would leave half a change. errors.Join evaluates all it is given, so it never joins calls of the rooms and the store.
func TestNoWriteRunsAfterOneThatFailed(t *testing.T) {
	root, err := filepath.Abs("..")
	require.NoError(t, err)
	for _, room := range []string{"organisation", "outbox", "importing", "register", "learning", "fieldwork", "planning", "store"} {
		files, err := filepath.Glob(filepath.Join(root, room, "*.go"))
		require.NoError(t, err)
		for _, file := range files {
			if strings.HasSuffix(file, "_test.go") {
				continue
			}
			set := token.NewFileSet()
			parsed, err := parser.ParseFile(set, file, nil, 0)
			require.NoError(t, err)
			ast.Inspect(parsed, func(n ast.Node) bool {
				call, ok := n.(*ast.CallExpr)
				if !ok {
					return true
				}
				fn, ok := call.Fun.(*ast.SelectorExpr)
				if from, isName := fnOf(fn, ok); !isName || from != "errors" || fn.Sel.Name != "Join" {
					return true
				}
				calls := 0
				for _, arg := range call.Args {
					into, isCall := arg.(*ast.CallExpr)
					if read, method := calledOn(into, isCall); method && read == "Into" {
						continue // unpacking a stored value writes nothing
					}
					if isCall {
						calls++
					}
				}
				assert.LessOrEqual(t, calls, 1, "%s: writes one after the other", set.Position(call.Pos()))
				return true
			})
		}
	}
}

func fnOf(fn *ast.SelectorExpr, ok bool) (string, bool) {
	if !ok {
		return "", false
	}
	name, ok := fn.X.(*ast.Ident)
	if !ok {
		return "", false
	}
	return name.Name, true
}

func calledOn(call *ast.CallExpr, ok bool) (string, bool) {
	if !ok {
		return "", false
	}
	fn, ok := call.Fun.(*ast.SelectorExpr)
	if !ok {
		return "", false
	}
	return fn.Sel.Name, true
}
