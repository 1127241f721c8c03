package main

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"io/fs"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"
)

// How long certificates are good for. Phones refuse server certificates of more than 825 days.
const (
	authorityYears = 10
	serverDays     = 397
)

func certificateCommand() *cobra.Command {
	var dir string
	cmd := &cobra.Command{
		Use:   "certificate NAME [NAME ...]",
		Short: "Make a local authority and a server certificate signed by it",
		Long: "Make a local authority and a server certificate signed by it for host names or addresses, so that phones on the\n" +
			"house's own network reach the server over TLS. The authority is made once and kept; run the command again to renew\n" +
			"the server's certificate or to name other addresses.",
		Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, names []string) error {
			made, err := makeCertificates(dir, names, time.Now())
			if err != nil {
				return err
			}
			out := cmd.OutOrStdout()
			if made {
				say(out, "A local authority was made: %s", filepath.Join(dir, "authority.pem"))
				say(out, "Keep %s to yourself: whoever has it can pose as any site to the phones that trust it.", filepath.Join(dir, "authority-key.pem"))
			}
			say(out, "The server's certificate: %s", filepath.Join(dir, "server.pem"))
			say(out, "")
			say(out, "Serve with it:")
			say(out, "  nextround serve --listen 0.0.0.0:8443 --tls-cert %s --tls-key %s", filepath.Join(dir, "server.pem"), filepath.Join(dir, "server-key.pem"))
			say(out, "")
			say(out, "Trust the authority on each phone, once:")
			say(out, "  Android: copy authority.pem to the phone, then Settings › Security › Encryption and credentials ›")
			say(out, "           Install a certificate › CA certificate.")
			say(out, "  iOS:     send authority.pem to the phone and open it, Settings › Profile downloaded › Install, then")
			say(out, "           Settings › General › About › Certificate trust settings: switch it on.")
			say(out, "Then open https://%s:8443 there.", names[0])
			return nil
		},
	}
	cmd.Flags().StringVar(&dir, "dir", ".local/tls", "folder for the authority and the certificates")
	return cmd
}

// makeCertificates writes a server certificate for the names; made says that the authority is new.
func makeCertificates(dir string, names []string, now time.Time) (made bool, err error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return false, fmt.Errorf("making %s: %w", dir, err)
	}
	authority, key, err := readAuthority(dir)
	if errors.Is(err, fs.ErrNotExist) {
		made = true
		authority, key, err = makeAuthority(dir, now)
	}
	if err != nil {
		return made, err
	}
	serverKey, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return made, err
	}
	template, err := certificateTemplate(names[0], now, now.AddDate(0, 0, serverDays))
	if err != nil {
		return made, err
	}
	template.ExtKeyUsage = []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}
	for _, name := range names {
		if ip := net.ParseIP(name); ip != nil {
			template.IPAddresses = append(template.IPAddresses, ip)
		} else {
			template.DNSNames = append(template.DNSNames, name)
		}
	}
	der, err := x509.CreateCertificate(rand.Reader, template, authority, &serverKey.PublicKey, key)
	if err != nil {
		return made, fmt.Errorf("signing the server's certificate: %w", err)
	}
	if err := writeCertificate(dir, "server.pem", der); err != nil {
		return made, err
	}
	return made, writeKey(dir, "server-key.pem", serverKey)
}

func certificateTemplate(name string, from, to time.Time) (*x509.Certificate, error) {
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		return nil, err
	}
	return &x509.Certificate{
		SerialNumber: serial, Subject: pkix.Name{CommonName: name, Organization: []string{"Next Round, local"}},
		NotBefore: from.Add(-time.Hour), NotAfter: to, KeyUsage: x509.KeyUsageDigitalSignature, BasicConstraintsValid: true,
	}, nil
}

func makeAuthority(dir string, now time.Time) (*x509.Certificate, *ecdsa.PrivateKey, error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, nil, err
	}
	template, err := certificateTemplate("Next Round local authority", now, now.AddDate(authorityYears, 0, 0))
	if err != nil {
		return nil, nil, err
	}
	template.IsCA, template.MaxPathLenZero = true, true
	template.KeyUsage = x509.KeyUsageCertSign | x509.KeyUsageCRLSign
	der, err := x509.CreateCertificate(rand.Reader, template, template, &key.PublicKey, key)
	if err != nil {
		return nil, nil, fmt.Errorf("making the authority: %w", err)
	}
	if err := writeCertificate(dir, "authority.pem", der); err != nil {
		return nil, nil, err
	}
	if err := writeKey(dir, "authority-key.pem", key); err != nil {
		return nil, nil, err
	}
	authority, err := x509.ParseCertificate(der)
	return authority, key, err
}

func readAuthority(dir string) (*x509.Certificate, *ecdsa.PrivateKey, error) {
	blocks := make([]*pem.Block, 2)
	for i, name := range []string{"authority.pem", "authority-key.pem"} {
		b, err := os.ReadFile(filepath.Join(dir, name)) //nolint:gosec // the user's own folder
		if err != nil {
			return nil, nil, err
		}
		if blocks[i], _ = pem.Decode(b); blocks[i] == nil {
			return nil, nil, fmt.Errorf("%s is damaged", filepath.Join(dir, name))
		}
	}
	authority, err := x509.ParseCertificate(blocks[0].Bytes)
	if err != nil {
		return nil, nil, fmt.Errorf("authority.pem is damaged: %w", err)
	}
	key, err := x509.ParseECPrivateKey(blocks[1].Bytes)
	if err != nil {
		return nil, nil, fmt.Errorf("authority-key.pem is damaged: %w", err)
	}
	return authority, key, nil
}

func writeCertificate(dir, name string, der []byte) error {
	b := pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der})
	return os.WriteFile(filepath.Join(dir, name), b, 0o644) //nolint:gosec // a certificate is for everybody
}

func writeKey(dir, name string, key *ecdsa.PrivateKey) error {
	der, err := x509.MarshalECPrivateKey(key)
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, name), pem.EncodeToMemory(&pem.Block{Type: "EC PRIVATE KEY", Bytes: der}), 0o600)
}
