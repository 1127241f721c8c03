// Package cut is a TCP proxy between browser and server whose wire can be cut, as it is in a plant room.
package cut

import (
	"bytes"
	"errors"
	"net"
	"strings"
	"sync"
	"sync/atomic"
)

// Proxy forwards to a server until it is cut.
type Proxy struct {
	// URL is the server's address as the browser is to use it.
	URL    string
	to     string
	listen net.Listener

	mu    sync.Mutex
	cut   bool
	lost  string // the request whose answer is to be lost
	open  map[net.Conn]bool
	ended sync.WaitGroup
}

// Start puts a proxy in front of a server's http address.
func Start(server string) (*Proxy, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	p := &Proxy{URL: "http://" + l.Addr().String(), to: strings.TrimPrefix(server, "http://"), listen: l, open: map[net.Conn]bool{}}
	p.ended.Add(1)
	go p.accept()
	return p, nil
}

func (p *Proxy) accept() {
	defer p.ended.Done()
	for {
		c, err := p.listen.Accept()
		if err != nil {
			return
		}
		if !p.hold(c) {
			_ = c.Close()
			continue
		}
		p.ended.Add(1)
		go p.carry(c)
	}
}

// hold notes an open end; false when the wire is cut.
func (p *Proxy) hold(c net.Conn) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.cut {
		return false
	}
	p.open[c] = true
	return true
}

func (p *Proxy) drop(c net.Conn) {
	p.mu.Lock()
	defer p.mu.Unlock()
	delete(p.open, c)
	_ = c.Close()
}

func (p *Proxy) carry(c net.Conn) {
	defer p.ended.Done()
	defer p.drop(c)
	s, err := net.Dial("tcp", p.to)
	if err != nil || !p.hold(s) {
		return
	}
	defer p.drop(s)
	done := make(chan struct{})
	var asked atomic.Bool
	go func() {
		p.copy(c, s, func(b []byte) bool {
			if p.isLost(b) {
				asked.Store(true)
			}
			return false
		})
		_ = s.(*net.TCPConn).CloseWrite()
		close(done)
	}()
	p.copy(s, c, func([]byte) bool {
		if !asked.Load() {
			return false
		}
		p.Cut()
		return true
	})
	_ = c.Close()
	<-done
}

// copy carries bytes one way until the wire ends, or until ends says so of what is to be carried.
func (p *Proxy) copy(from, to net.Conn, ends func([]byte) bool) {
	buffer := make([]byte, 32<<10)
	for {
		n, err := from.Read(buffer)
		if n > 0 {
			if ends(buffer[:n]) {
				return
			}
			if _, err := to.Write(buffer[:n]); err != nil {
				return
			}
		}
		if err != nil {
			return
		}
	}
}

// isLost says whether a request is the one whose answer is to be lost.
func (p *Proxy) isLost(b []byte) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.lost == "" || !bytes.Contains(b, []byte(p.lost)) {
		return false
	}
	p.lost = ""
	return true
}

// Cut ends every connection and takes no new one.
func (p *Proxy) Cut() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.cut = true
	for c := range p.open {
		_ = c.Close()
	}
}

// Join mends the wire.
func (p *Proxy) Join() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.cut = false
}

// LoseAnswer mends the wire until a request, named by its method and path, has reached the server: its answer is lost,
// and the wire cut again.
func (p *Proxy) LoseAnswer(request string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.cut, p.lost = false, request
}

// Whole says whether the wire is whole.
func (p *Proxy) Whole() bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	return !p.cut
}

// Close ends the proxy.
func (p *Proxy) Close() error {
	p.Cut()
	err := p.listen.Close()
	p.ended.Wait()
	if errors.Is(err, net.ErrClosed) {
		return nil
	}
	return err
}
