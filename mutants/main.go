// Command mutants breaks the program one line at a time and says which breaks no test notices.
//
// Each file in patches changes one line; its first line names the packages whose tests have to fail. The source tree is not
// touched: the changed file is laid over it for the build. Run it through make mutants, which brings PostgreSQL up.
package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
)

// mutant is one broken line.
type mutant struct {
	name, file string
	packages   []string
	was, is    string
}

func main() {
	list, err := read(filepath.Join("mutants", "patches"), os.Args[1:])
	if err != nil {
		fmt.Fprintln(os.Stderr, "mutants:", err)
		os.Exit(2)
	}
	alive := run(list)
	for _, name := range alive {
		fmt.Println("ALIVE", name)
	}
	fmt.Printf("%d mutants, %d alive\n", len(list), len(alive))
	if len(alive) > 0 {
		os.Exit(1)
	}
}

// read reads the patches; with names given, only those whose file begins with one.
func read(dir string, names []string) ([]mutant, error) {
	files, err := filepath.Glob(filepath.Join(dir, "*.patch"))
	if err != nil {
		return nil, err
	}
	var out []mutant
	for _, file := range files {
		name := strings.TrimSuffix(filepath.Base(file), ".patch")
		if len(names) > 0 && !slices.ContainsFunc(names, func(n string) bool { return strings.HasPrefix(name, n) }) {
			continue
		}
		text, err := os.ReadFile(file) //nolint:gosec // one of our own patches
		if err != nil {
			return nil, err
		}
		m := mutant{name: name}
		for line := range strings.Lines(string(text)) {
			line = strings.TrimSuffix(line, "\n")
			switch {
			case strings.HasPrefix(line, "tests: "):
				m.packages = strings.Fields(strings.TrimPrefix(line, "tests: "))
			case strings.HasPrefix(line, "+++ b/"):
				m.file = strings.TrimPrefix(line, "+++ b/")
			case strings.HasPrefix(line, "---"):
			case strings.HasPrefix(line, "-"):
				m.was = line[1:]
			case strings.HasPrefix(line, "+"):
				m.is = line[1:]
			}
		}
		if m.file == "" || m.was == "" || len(m.packages) == 0 {
			return nil, fmt.Errorf("%s: names no file, line or tests", file)
		}
		out = append(out, m)
	}
	return out, nil
}

// run tries all, two at a time, and names those that no test noticed.
func run(list []mutant) (alive []string) {
	work := make(chan mutant)
	var said sync.Mutex
	var all sync.WaitGroup
	for range 2 {
		all.Go(func() {
			for m := range work {
				what := "killed"
				if err := m.try(); err != nil {
					what = err.Error()
				}
				said.Lock()
				fmt.Printf("%-44s %s\n", m.name, what)
				if what != "killed" {
					alive = append(alive, m.name)
				}
				said.Unlock()
			}
		})
	}
	for _, m := range list {
		work <- m
	}
	close(work)
	all.Wait()
	slices.Sort(alive)
	return alive
}

var errAlive = errors.New("ALIVE: no test noticed")

// try lays the broken file over the tree and runs the tests; nil when they fail.
func (m mutant) try() error {
	source, err := os.ReadFile(m.file)
	if err != nil {
		return err
	}
	if n := strings.Count(string(source), m.was+"\n"); n != 1 {
		return fmt.Errorf("its line is there %d times: renew the patch", n)
	}
	dir, err := os.MkdirTemp("", "mutant-")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	broken := filepath.Join(dir, filepath.Base(m.file))
	if err := os.WriteFile(broken, []byte(strings.Replace(string(source), m.was+"\n", m.is+"\n", 1)), 0o600); err != nil { //nolint:gosec // in a folder of our own making
		return err
	}
	whole, err := filepath.Abs(m.file)
	if err != nil {
		return err
	}
	overlay, err := json.Marshal(map[string]map[string]string{"Replace": {whole: broken}})
	if err != nil {
		return err
	}
	plan := filepath.Join(dir, "overlay.json")
	if err := os.WriteFile(plan, overlay, 0o600); err != nil {
		return err
	}
	if out, err := exec.Command("go", append([]string{"build", "-overlay", plan}, m.packages...)...).CombinedOutput(); err != nil { //nolint:gosec,noctx // our own patches
		return fmt.Errorf("does not compile: %s", strings.TrimSpace(string(out)))
	}
	args := append([]string{"test", "-overlay", plan, "-failfast", "-count=1"}, m.packages...)
	if err := exec.Command("go", args...).Run(); err == nil { //nolint:gosec,noctx // our own patches
		return errAlive
	}
	return nil
}
