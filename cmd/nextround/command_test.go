package main

import (
	"bytes"
	"context"
	"errors"
	"net"
	"net/http"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// command runs the program and returns its exit code and what it printed.
func command(in string, args ...string) (int, string) {
	root := newRoot()
	var out bytes.Buffer
	root.SetIn(strings.NewReader(in))
	root.SetOut(&out)
	root.SetErr(&out)
	root.SetArgs(args)
	err := root.Execute()
	var exit exitError
	switch {
	case err == nil:
		return 0, out.String()
	case errors.As(err, &exit):
		return exit.code, err.Error()
	}
	return exitFailure, err.Error()
}

func TestCalcExitCodes(t *testing.T) {
	code, example := command("", "calc", "replay", "--example")
	require.Equal(t, 0, code)
	code, out := command(example, "calc", "replay")
	assert.Equal(t, 0, code)
	assert.Contains(t, out, `"core_load"`)
	code, out = command("", "calc", "interval", "--schema")
	assert.Equal(t, 0, code)
	assert.Contains(t, out, "json-schema.org")

	code, out = command("", "calc", "weather")
	assert.Equal(t, exitUsage, code)
	assert.Contains(t, out, "topics are interval, replay")
	code, _ = command("", "calc")
	assert.Equal(t, exitUsage, code)
	code, _ = command("{", "calc", "interval")
	assert.Equal(t, exitInput, code)
	code, out = command(`{"class_days": 0, "class_max_days": 10, "factor": 1}`, "calc", "interval")
	assert.Equal(t, exitField, code)
	assert.Contains(t, out, "class_days: must be at least 1 day")
}

func TestWrongUseEndsInOneLine(t *testing.T) {
	for _, args := range [][]string{
		{"serve"}, {"migrate"}, {"serve", "--nonsense"}, {"--log", "loud", "calc", "replay", "--example"}, {"demo", "--tls-cert"},
	} {
		t.Setenv("DATABASE_URL", "")
		code, out := command("", args...)
		assert.Equal(t, exitUsage, code, args)
		assert.NotContains(t, out, "\n", args)
	}
	code, out := command("", "serve", "--database", "postgres://nobody@127.0.0.1:1/none")
	assert.Equal(t, exitFailure, code)
	assert.NotContains(t, out, "goroutine")
}

func TestListenTakesTheNextFreePort(t *testing.T) {
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer func() { _ = taken.Close() }()
	l, err := listen(context.Background(), taken.Addr().String(), true)
	require.NoError(t, err)
	defer func() { _ = l.Close() }()
	assert.Greater(t, l.Addr().(*net.TCPAddr).Port, taken.Addr().(*net.TCPAddr).Port)
	_, err = listen(context.Background(), taken.Addr().String(), false)
	assert.ErrorContains(t, err, "is taken by another program")
	_, err = listen(context.Background(), "nowhere", true)
	assert.ErrorContains(t, err, "must be HOST:PORT")
}

// lines is a writer whose text can be read while it grows.
type lines struct {
	found chan string
	text  bytes.Buffer
}

var address = regexp.MustCompile(`http://\S+`)

func (l *lines) Write(b []byte) (int, error) {
	l.text.Write(b)
	if a := address.FindString(string(b)); a != "" {
		l.found <- a
	}
	return len(b), nil
}

func TestDemoStartsServesAndStops(t *testing.T) {
	dir := t.TempDir()
	for _, o := range []demoOptions{{}, {keep: true}, {own: true}} {
		o.dir, o.listen = filepath.Join(dir, "demo"), "127.0.0.1:0"
		ctx, cancel := context.WithCancel(context.Background())
		out := &lines{found: make(chan string, 1)}
		ended := make(chan error, 1)
		go func() {
			ended <- runDemo(ctx, out, o)
		}()
		var url string
		select {
		case url = <-out.found:
		case err := <-ended:
			t.Fatalf("the demonstration ended: %v", err)
		case <-time.After(time.Minute):
			t.Fatal("the demonstration did not start")
		}
		res, err := http.Get(url + "/readyz")
		require.NoError(t, err)
		_ = res.Body.Close()
		assert.Equal(t, http.StatusOK, res.StatusCode)
		if !o.keep {
			err := runDemo(ctx, &lines{}, o)
			assert.ErrorContains(t, err, "already running")
		}
		cancel()
		require.NoError(t, <-ended)
		assert.Contains(t, out.text.String(), "manager")
		assert.Equal(t, !o.own, strings.Contains(out.text.String(), "The clock stands at Wednesday 4 March 2026"))
		assert.Contains(t, out.text.String(), "Stopped.")
		_, err = net.Dial("tcp", strings.TrimPrefix(url, "http://"))
		assert.Error(t, err, "nothing serves any more")
	}
}
