package serving

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/sys/unix"

	"ivelt/app"
	"ivelt/cmd/ivelt/internal/given"
	"ivelt/web"
)

const defaultAddr = "127.0.0.1:8410"

// ListenFlags say where a server listens.
type ListenFlags struct {
	addr, socket, language string
	names                  []string
}

// Add lets a command be told where to listen.
func (f *ListenFlags) Add(c *cobra.Command) {
	c.Flags().StringVar(&f.addr, "addr", defaultAddr, "address to listen on")
	c.Flags().StringVar(&f.socket, "socket", "", "listen on this Unix socket instead, for its owner only")
	c.Flags().StringVar(&f.language, "language", "", "the language of the pages, as \"pt-BR\" (default: what the browser asks for)")
	c.Flags().StringArrayVar(&f.names, "name", nil, "a host name or address under which it is reached, if --addr is beyond this computer; may be repeated")
}

// Listen listens there: at an address of this machine, or at a socket that is its owner's.
func (f *ListenFlags) Listen() (net.Listener, error) {
	if f.socket != "" {
		return listenOnSocket(f.socket)
	}
	host, _, err := net.SplitHostPort(f.addr)
	if err != nil {
		return nil, fmt.Errorf("--addr is HOST:PORT, such as %s: %w", defaultAddr, err)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) && len(f.names) == 0 {
		return nil, fmt.Errorf("%s can be reached from other computers. Say with --name under which names it is meant to be reached there: it answers to no other", f.addr)
	}
	l, err := net.Listen("tcp", f.addr)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil, fmt.Errorf("%s is in use, perhaps by another Ivelt. Stop that one, or choose another port with --addr 127.0.0.1:8411", f.addr)
	}
	if err != nil {
		return nil, fmt.Errorf("cannot listen on %s: %w", f.addr, err)
	}
	return l, nil
}

// listenOnSocket listens on a Unix socket and hangs up on everybody but its owner.
func listenOnSocket(at string) (net.Listener, error) {
	if fi, err := os.Lstat(at); err == nil && fi.Mode()&os.ModeSocket != 0 {
		if c, err := net.Dial("unix", at); err == nil {
			c.Close()
			return nil, fmt.Errorf("%s is in use, perhaps by another Ivelt", at)
		}
		if err := os.Remove(at); err != nil { // one that was left
			return nil, err
		}
	}
	l, err := net.Listen("unix", at)
	if err != nil {
		return nil, fmt.Errorf("cannot listen on %s: %w", at, err)
	}
	if err := os.Chmod(at, 0o600); err != nil {
		return nil, errors.Join(err, l.Close())
	}
	return ownersOnly{l}, nil
}

type ownersOnly struct{ net.Listener }

// Accept is the next connection of the owner's.
func (l ownersOnly) Accept() (net.Conn, error) {
	for {
		c, err := l.Listener.Accept()
		if err != nil {
			return nil, err
		}
		if uid, err := peerOf(c); err == nil && uid == os.Geteuid() {
			return c, nil
		}
		slog.Warn("somebody else knocked at the socket")
		c.Close()
	}
}

// peerOf is the user at the other end of a Unix socket (unix(7), SO_PEERCRED).
func peerOf(c net.Conn) (int, error) {
	raw, err := c.(*net.UnixConn).SyscallConn()
	if err != nil {
		return 0, err
	}
	var peer *unix.Ucred
	var failed error
	if err := raw.Control(func(fd uintptr) { peer, failed = unix.GetsockoptUcred(int(fd), unix.SOL_SOCKET, unix.SO_PEERCRED) }); err != nil || failed != nil {
		return 0, errors.Join(err, failed)
	}
	return int(peer.Uid), nil
}

const (
	secretName  = "secret"
	addressName = "address"
)

// secretIn is the start secret of a data folder: it is made once, so that browsers stay
// known, and made anew if others could have read it.
func secretIn(dir string) (string, error) {
	at := filepath.Join(dir, secretName)
	if fi, err := os.Stat(at); err == nil && fi.Mode().Perm()&0o077 == 0 {
		if b, err := os.ReadFile(at); err == nil && len(b) >= 26 {
			return strings.TrimSpace(string(b)), nil
		}
	}
	secret := rand.Text()
	if err := os.RemoveAll(at); err != nil {
		return "", err
	}
	return secret, os.WriteFile(at, []byte(secret+"\n"), 0o600)
}

// Serve prints the address to open, and answers requests until the context ends, then
// lets open ones finish.
func (f *ListenFlags) Serve(c *cobra.Command, l net.Listener, a *app.App, words string) error {
	w, err := web.New(a)
	if err != nil {
		return err
	}
	w.Hosts = f.names
	w.Languages = web.NewLanguages(given.LanguagesFolder(), f.language)
	var addresses []string
	if f.socket == "" {
		if w.Secret, err = secretIn(a.Dir); err != nil {
			return fmt.Errorf("the start secret: %w", err)
		}
		_, port, _ := net.SplitHostPort(l.Addr().String())
		hosts := []string{l.Addr().String()}
		if len(f.names) > 0 {
			hosts = nil
			for _, name := range f.names {
				hosts = append(hosts, net.JoinHostPort(name, port))
			}
		}
		for _, host := range hosts {
			at := url.URL{Scheme: "http", Host: host, Path: "/", RawQuery: url.Values{"key": {w.Secret}}.Encode()}
			addresses = append(addresses, at.String())
		}
		at := filepath.Join(a.Dir, addressName)
		_ = os.Remove(at)
		if err := os.WriteFile(at, []byte(strings.Join(addresses, "\n")+"\n"), 0o600); err != nil {
			return err
		}
		defer os.Remove(at)
	} else {
		addresses = []string{"http://localhost/ through the socket " + f.socket}
	}
	for _, at := range addresses {
		fmt.Fprintf(c.OutOrStdout(), "Open %s\n", at)
	}
	fmt.Fprintln(c.OutOrStdout(), words)
	return answer(c.Context(), l, w)
}

// What a request may take: its head, and all of it while nothing comes or goes.
const (
	headTime = 10 * time.Second
	idleTime = 2 * time.Minute
	stopTime = 2 * time.Second
)

func answer(ctx context.Context, l net.Listener, w *web.Server) error {
	srv := &http.Server{
		Handler: w.Handler(), ReadHeaderTimeout: headTime, IdleTimeout: idleTime, MaxHeaderBytes: 64 << 10,
		ErrorLog:    slog.NewLogLogger(slog.Default().Handler(), slog.LevelWarn),
		BaseContext: func(net.Listener) context.Context { return ctx },
	}
	ended := make(chan error, 1)
	go func() { ended <- srv.Serve(l) }()
	select {
	case err := <-ended:
		return err
	case <-ctx.Done():
	}
	stop, cancel := context.WithTimeout(context.WithoutCancel(ctx), stopTime)
	defer cancel()
	if err := srv.Shutdown(stop); err != nil {
		return srv.Close()
	}
	return nil
}
