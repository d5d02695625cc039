package main

import (
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"path/filepath"

	"golang.org/x/crypto/acme"
	"golang.org/x/crypto/acme/autocert"
)

// door is where the application is reached: an address that is listened on, by which names, whether people sign in
// there, and whether their browsers come by a secure connection.
type door struct {
	listener       net.Listener
	hosts          []string
	signIn, secure bool
	proxied        bool // something before us does the secure part
}

// errPlain is why people do not sign in over a connection that others can read.
var errPlain = errors.New("people would send their passwords in the clear. Set --tls-cert and --tls-key, or " +
	"--acme=yes " +
	"with --hosts, or --behind-proxy=yes where a proxy before this program has the certificate")

// listen takes the address that is served on, before anything else is done. On an address of this machine's own
// nobody signs in unless --sign-in says so; on any other, and behind a proxy, everybody does, unless
// --anyone-may-do-everything says otherwise.
func (c config) listen(log *slog.Logger) (d door, err error) {
	address := c.GetString("listen")
	d.hosts, d.proxied = c.list("hosts"), c.GetString("behind-proxy") == "yes"
	with, err := c.certificates(d.hosts)
	if err != nil {
		return d, err
	}
	d.secure = with != nil || d.proxied
	if d.listener, err = net.Listen("tcp", address); err != nil {
		return d, fmt.Errorf("listening on %s: %w", address, err)
	}
	a, _ := d.listener.Addr().(*net.TCPAddr)
	own := a == nil || a.IP.IsLoopback()
	d.signIn = c.GetString("sign-in") == "yes" || !own || d.proxied
	switch {
	case (!own || d.proxied) && c.GetString("anyone-may-do-everything") == "yes":
		log.Warn("anyone who reaches this address can read and change everything: there is no sign-in", "address", a.String())
		d.signIn = false
	case d.signIn && !own && !d.secure:
		d.listener.Close()
		return d, &usageError{fmt.Errorf("--listen %s: %w", address, errPlain)}
	}
	if !own && !a.IP.IsUnspecified() {
		d.hosts = append(d.hosts, a.IP.String())
	}
	if with != nil {
		d.listener = tls.NewListener(d.listener, with)
	}
	return d, nil
}

// certificates is how connections are made secure; nil they are not.
func (c config) certificates(hosts []string) (*tls.Config, error) {
	cert, key, auto := c.GetString("tls-cert"), c.GetString("tls-key"), c.GetString("acme") == "yes"
	switch {
	case (cert == "") != (key == ""):
		return nil, &usageError{errors.New("--tls-cert and --tls-key belong together")}
	case cert != "" && auto:
		return nil, &usageError{errors.New("--acme fetches certificates; with --tls-cert there is nothing to fetch")}
	case auto && len(hosts) == 0:
		return nil, &usageError{errors.New("--acme needs the names that certificates are for: set --hosts")}
	case auto:
		m := autocert.Manager{Prompt: autocert.AcceptTOS, HostPolicy: autocert.HostWhitelist(hosts...),
			Cache: autocert.DirCache(filepath.Join(filepath.Dir(c.dataFile()), "certificates"))}
		if at := c.GetString("acme-directory"); at != "" {
			m.Client = &acme.Client{DirectoryURL: at}
		}
		with := m.TLSConfig()
		with.MinVersion, with.NextProtos = tls.VersionTLS12, []string{"http/1.1", acme.ALPNProto}
		return with, nil
	case cert == "":
		return nil, nil
	}
	pair, err := tls.LoadX509KeyPair(cert, key)
	if err != nil {
		return nil, &usageError{fmt.Errorf("reading the certificate: %w", err)}
	}
	return &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12}, nil
}

// address is where a browser finds it.
func (d door) address() string {
	scheme := "http"
	if d.secure && !d.proxied {
		scheme = "https"
	}
	return scheme + "://" + d.listener.Addr().String()
}
