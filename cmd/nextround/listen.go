package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/pprof"
	"strconv"
	"syscall"
	"time"

	"nextround/internal/api"
	"nextround/internal/demo"
	"nextround/internal/rooms"
	"nextround/internal/store"
	"nextround/web"
)

const (
	// portTries is how many ports after the wanted one are tried.
	portTries = 20
	// graceful is how long requests under way may take to end; what takes longer is cut off.
	graceful = 7 * time.Second
	// A body that does not come, a connection nobody uses and an answer nobody takes are given up. Files by people who are signed
	// in get longer, see api.
	readWithin  = 45 * time.Second
	idleWithin  = 45 * time.Second
	writeWithin = 5 * time.Minute
	// refreshEvery is how often proposals are brought in line with the day.
	refreshEvery = time.Hour
)

type site struct {
	listen  string
	search  bool // take the next free port when the wanted one is taken
	cert    string
	key     string
	profile string // where profiles are served; empty for nowhere
	public  string // the address people use; empty for that of the listener
	proxies []string
	service rooms.Options
	outside outside
}

// serveUntil serves a migrated database until the context ends, then lets requests end.
func serveUntil(ctx context.Context, st *store.Store, o site, ready func(address string)) error {
	if (o.cert == "") != (o.key == "") {
		return exitError{exitUsage, errors.New("--tls-cert and --tls-key belong together")}
	}
	listener, err := listen(ctx, o.listen, o.search)
	if err != nil {
		return err
	}
	defer func() { _ = listener.Close() }()
	scheme := "http"
	if o.cert != "" {
		scheme = "https"
	}
	address := scheme + "://" + listener.Addr().String()
	if o.public == "" {
		o.public = address
	}
	outside := reachable(listener.Addr())
	if outside {
		o.service.KnownPassword = demo.Password
		if o.cert == "" {
			slog.WarnContext(ctx, "others on the network can reach this server, and what is sent to it is not encrypted: give --tls-cert and --tls-key, or put a proxy with TLS in front and listen on 127.0.0.1",
				"address", listener.Addr().String())
		}
	}
	svc := rooms.New(st, o.outside.connect(o.service))
	defer svc.Close()
	cleanup := 10 * time.Minute
	if o.service.ReadOnly {
		cleanup = 0
	}
	server, err := api.NewServer(svc, st, api.Options{
		Pages: web.Files(), Secure: o.cert != "", Open: outside && o.cert == "", Public: o.public, Proxies: o.proxies, SessionCleanup: cleanup, ReadOnly: o.service.ReadOnly,
	})
	if err != nil {
		return err
	}
	defer server.Close()
	h := &http.Server{
		Handler: server, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: readWithin, WriteTimeout: writeWithin, IdleTimeout: idleWithin,
		ErrorLog: slog.NewLogLogger(slog.Default().Handler(), slog.LevelWarn),
	}
	endProfile, err := serveProfile(ctx, o.profile)
	if err != nil {
		return err
	}
	defer endProfile()
	failed := make(chan error, 1)
	go func() {
		if o.cert != "" {
			failed <- h.ServeTLS(listener, o.cert, o.key)
			return
		}
		failed <- h.Serve(listener)
	}()
	if !o.service.ReadOnly {
		if err := svc.StartQueue(ctx); err != nil {
			return err
		}
		go refresh(ctx, svc)
	}
	ready(address)
	select {
	case err := <-failed:
		return fmt.Errorf("serving: %w", err)
	case <-ctx.Done():
	}
	ending, cancel := context.WithTimeout(context.WithoutCancel(ctx), graceful)
	defer cancel()
	if err := h.Shutdown(ending); err != nil {
		slog.WarnContext(ctx, "requests that did not end in time are cut off", "error", err)
		_ = h.Close()
	}
	return nil
}

// reachable reports whether an address is reached from other machines.
func reachable(a net.Addr) bool {
	host, _, err := net.SplitHostPort(a.String())
	ip := net.ParseIP(host)
	return err != nil || ip == nil || !ip.IsLoopback()
}

// serveProfile serves Go's profiles (net/http/pprof) at an address of this machine, for whoever looks for what takes time or
// memory. They tell of data, so no other address is taken.
func serveProfile(ctx context.Context, address string) (end func(), err error) {
	if address == "" {
		return func() {}, nil
	}
	host, _, err := net.SplitHostPort(address)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		return nil, exitError{exitUsage, fmt.Errorf("--pprof must be an address of this machine such as 127.0.0.1:6060, not %q", address)}
	}
	listener, err := (&net.ListenConfig{}).Listen(ctx, "tcp", address)
	if err != nil {
		return nil, fmt.Errorf("--pprof: %w", err)
	}
	mux := http.NewServeMux()
	mux.HandleFunc("/debug/pprof/", pprof.Index)
	mux.HandleFunc("/debug/pprof/profile", pprof.Profile)
	mux.HandleFunc("/debug/pprof/trace", pprof.Trace)
	mux.HandleFunc("/debug/pprof/symbol", pprof.Symbol)
	h := &http.Server{Handler: mux, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = h.Serve(listener) }()
	slog.InfoContext(ctx, "profiles are served", "address", "http://"+listener.Addr().String()+"/debug/pprof/")
	return func() { _ = h.Close() }, nil
}

// refresh keeps proposals in line with the day: site factors begin and end.
func refresh(ctx context.Context, svc *rooms.Rooms) {
	tick := time.NewTicker(refreshEvery)
	defer tick.Stop()
	for {
		if err := svc.Learning.RefreshAll(ctx); err != nil && ctx.Err() == nil {
			slog.ErrorContext(ctx, "bringing proposals up to date", "error", err)
		}
		if err := svc.Learning.Nightly(ctx); err != nil && ctx.Err() == nil {
			slog.ErrorContext(ctx, "beginning the night's run", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// listen takes the address, or with search the next free port after it.
func listen(ctx context.Context, address string, search bool) (net.Listener, error) {
	host, port, err := net.SplitHostPort(address)
	if err != nil {
		return nil, exitError{exitUsage, fmt.Errorf("--listen must be HOST:PORT, not %q", address)}
	}
	first, err := strconv.Atoi(port)
	if err != nil || first < 0 || first > 65535 {
		return nil, exitError{exitUsage, fmt.Errorf("--listen: %q is not a port", port)}
	}
	for i := 0; ; i++ {
		l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", net.JoinHostPort(host, strconv.Itoa(first+i)))
		switch {
		case err == nil:
			return l, nil
		case !errors.Is(err, syscall.EADDRINUSE):
			return nil, fmt.Errorf("listening on %s: %w", address, err)
		case !search:
			return nil, fmt.Errorf("port %d is taken by another program; choose one with --listen", first)
		case i == portTries || first+i == 65535:
			return nil, fmt.Errorf("ports %d to %d are all taken; choose one with --listen", first, first+i)
		}
	}
}

func say(w io.Writer, format string, args ...any) { _, _ = fmt.Fprintf(w, format+"\n", args...) }
