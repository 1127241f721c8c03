package post_test

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"io"
	"math/big"
	"net"
	"testing"
	"time"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/post"
)

// taker is a mail server that says of each mail whether its line was encrypted.
type taker struct {
	lines chan bool
	texts chan string
}

func (b *taker) NewSession(c *smtp.Conn) (smtp.Session, error) {
	_, encrypted := c.TLSConnectionState()
	return session{b, encrypted}, nil
}

type session struct {
	*taker
	encrypted bool
}

func (session) Mail(string, *smtp.MailOptions) error { return nil }
func (session) Rcpt(string, *smtp.RcptOptions) error { return nil }
func (session) Reset()                               {}
func (session) Logout() error                        { return nil }
func (session) AuthMechanisms() []string             { return []string{sasl.Plain} }
func (session) Auth(string) (sasl.Server, error) {
	return sasl.NewPlainServer(func(_, user, password string) error {
		if user != "desk" || password != "a long secret" {
			return smtp.ErrAuthFailed
		}
		return nil
	}), nil
}

func (s session) Data(r io.Reader) error {
	text, err := io.ReadAll(r)
	s.lines <- s.encrypted
	s.texts <- string(text)
	return err
}

// certificate is one for 127.0.0.1 of the test's own making, and who trusts it.
func certificate(t *testing.T) (server, client *tls.Config) {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	card := &x509.Certificate{
		SerialNumber: big.NewInt(1), NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour),
		IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)}, IsCA: true, BasicConstraintsValid: true,
	}
	der, err := x509.CreateCertificate(rand.Reader, card, card, &key.PublicKey, key)
	require.NoError(t, err)
	made, err := x509.ParseCertificate(der)
	require.NoError(t, err)
	trusted := x509.NewCertPool()
	trusted.AddCert(made)
	return &tls.Config{Certificates: []tls.Certificate{{Certificate: [][]byte{der}, PrivateKey: key}}, MinVersion: tls.VersionTLS12},
		&tls.Config{RootCAs: trusted, ServerName: "127.0.0.1", MinVersion: tls.VersionTLS12}
}

// Mails go over an encrypted line from the first byte (implicit TLS, RFC 8314), over one that is encrypted on the way (STARTTLS, RFC 3207), or
// over an open one where there is no password to keep.
func TestLines(t *testing.T) {
	t.Parallel()
	served, trusting := certificate(t)
	for _, c := range []struct {
		name, user         string
		offered, implicit  bool
		encrypted, refused bool
	}{
		{name: "open, no sign-in"},
		{name: "STARTTLS where it is offered", offered: true, encrypted: true},
		{name: "STARTTLS with a password", offered: true, user: "desk", encrypted: true},
		{name: "a password never goes over an open line", user: "desk", refused: true},
		{name: "encrypted from the first byte", offered: true, implicit: true, encrypted: true},
		{name: "encrypted from the first byte, with a password", offered: true, implicit: true, user: "desk", encrypted: true},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			l, err := (&net.ListenConfig{}).Listen(t.Context(), "tcp", "127.0.0.1:0")
			require.NoError(t, err)
			taken := &taker{make(chan bool, 1), make(chan string, 1)}
			s := smtp.NewServer(taken)
			s.Domain = "localhost"
			address := l.Addr().String()
			if c.offered {
				s.TLSConfig = served
			}
			if c.implicit {
				l, address = tls.NewListener(l, served), "smtps://"+address
			}
			go func() { _ = s.Serve(l) }()
			t.Cleanup(func() { _ = s.Close() })
			to := post.Server{Address: address, From: "round@hall.example", User: c.user, TLS: trusting}
			if c.user != "" {
				to.Password = "a long secret"
			}
			err = to.Send(t.Context(), post.Mail{ID: "0190", To: "desk@hall.example", Subject: "The week", Text: "None.", FileName: "a.pdf", File: []byte("%PDF")})
			if c.refused {
				require.Error(t, err)
				assert.Empty(t, taken.lines)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, c.encrypted, <-taken.lines)
			text := <-taken.texts
			assert.Contains(t, text, "Message-ID: <0190@next-round>")
			assert.Contains(t, text, "Subject: The week")
			assert.Contains(t, text, "a.pdf")
		})
	}
	err := post.Server{Address: "nowhere"}.Send(t.Context(), post.Mail{To: "desk@hall.example"})
	require.Error(t, err)
	err = post.Server{Address: "127.0.0.1:smtp", From: "round@hall.example"}.Send(t.Context(), post.Mail{To: "desk@hall.example"})
	assert.ErrorContains(t, err, "port")
}
