package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/signal"
	"path/filepath"
	"runtime/debug"
	"syscall"
	"time"
	_ "time/tzdata" // so that a studio's zone is known on every machine

	"github.com/labstack/echo/v5"
	"github.com/urfave/cli/v3"

	"valleyside/demo"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web"
)

// dbFlag names a database file, or the environment variable that does.
func dbFlag(usual, variable string) cli.Flag {
	return &cli.StringFlag{Name: "db", Value: usual, Usage: "the database `FILE`", Sources: cli.EnvVars(variable)}
}

// Where the studio's file is named, and that of the demo, which is never the
// studio's.
const (
	studioVariable = "VALLEYSIDE_DB"
	demoVariable   = "VALLEYSIDE_DEMO_DB"
	studioFile     = "valleyside.db"
)

// named is the database that a command is for; a variable that is set but empty
// names none.
func named(c *cli.Command, variable string) (string, error) {
	value, set := os.LookupEnv(variable)
	if path := c.String("db"); path != "" && !(set && value == "" && !c.IsSet("db")) {
		return path, nil
	}
	return "", inputErrorf("the name of the database is empty; name a file with --db or %s", variable)
}

func serverFlags(db cli.Flag) []cli.Flag {
	return []cli.Flag{
		jsonFlag(),
		&cli.StringFlag{Name: "addr", Value: "127.0.0.1:8080", Usage: "the address to serve on", Sources: cli.EnvVars("VALLEYSIDE_ADDR")},
		db,
		&cli.BoolFlag{Name: "secure", Usage: "it is reached over https: mark cookies for that only, and tell browsers to stay with it", Sources: cli.EnvVars("VALLEYSIDE_SECURE")},
		&cli.StringFlag{Name: "public-url", Usage: "the `ADDRESS` under which it is reached, for students' links", Sources: cli.EnvVars("VALLEYSIDE_PUBLIC_URL")},
		&cli.StringSliceFlag{Name: "trusted-proxy", Usage: "a proxy in front of it, as an address or `NETWORK` like 10.0.0.0/8, whose word counts for where a request comes from", Sources: cli.EnvVars("VALLEYSIDE_TRUSTED_PROXY")},
		&cli.StringFlag{Name: "log", Value: "info", Usage: "debug, info, warn or error", Sources: cli.EnvVars("VALLEYSIDE_LOG")},
	}
}

func (s *streams) serveCommand() *cli.Command {
	return &cli.Command{
		Name: "serve", Usage: "start the web application",
		Flags: serverFlags(dbFlag(studioFile, studioVariable)),
		Action: func(ctx context.Context, c *cli.Command) error {
			return s.serve(ctx, c, studioVariable, nil, func(path string) (*store.Store, error) {
				return studio.Open(ctx, path, func(how string) { fmt.Fprintln(s.err, how) })
			})
		},
	}
}

func (s *streams) demoCommand() *cli.Command {
	return &cli.Command{
		Name: "demo", Usage: "start it with a made-up studio to try",
		Flags: append(serverFlags(dbFlag(filepath.Join(os.TempDir(), "valleyside-demo.db"), demoVariable)),
			&cli.BoolFlag{Name: "fresh", Usage: "make the demo studio anew"}),
		Action: func(ctx context.Context, c *cli.Command) error {
			account := &web.DemoAccount{Email: demo.Email, Password: demo.Password}
			return s.serve(ctx, c, demoVariable, account, func(path string) (*store.Store, error) {
				return store.OpenDemo(ctx, path, c.Bool("fresh"), func(st *store.Store) error { return demo.Fill(ctx, st, time.Now()) })
			})
		},
	}
}

// leastHeap is how much memory the garbage collector tries to stay below at least,
// so that a small machine can serve many pages at once; a machine with more gives
// an eighth of what it has. GOMEMLIMIT sets another.
const leastHeap = 48 << 20

// serve runs the web application until it is told to stop.
func (s *streams) serve(ctx context.Context, c *cli.Command, variable string, account *web.DemoAccount, open func(path string) (*store.Store, error)) error {
	if c.Args().Present() {
		return fmt.Errorf("%s takes no arguments", c.Name)
	}
	var level slog.Level
	if err := level.UnmarshalText([]byte(c.String("log"))); err != nil {
		return fmt.Errorf("--log is %q; use debug, info, warn or error", c.String("log"))
	}
	options := &slog.HandlerOptions{Level: level}
	var handler slog.Handler = slog.NewTextHandler(s.err, options)
	if c.Bool("json") {
		handler = slog.NewJSONHandler(s.err, options)
	}
	log := slog.New(handler)
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(max(leastHeap, memory()/8))
	}
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer stop()
	path, err := named(c, variable)
	if err != nil {
		return err
	}
	config := web.Config{Log: log, Secure: c.Bool("secure"), Demo: account, PublicURL: c.String("public-url")}
	if config.PublicURL != "" {
		if u, err := url.Parse(config.PublicURL); err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
			return fmt.Errorf("--public-url is %q; write it like https://lessons.example", config.PublicURL)
		}
	}
	for _, text := range c.StringSlice("trusted-proxy") {
		network, err := proxyNetwork(text)
		if err != nil {
			return fmt.Errorf("--trusted-proxy is %q; write an address or a network like 10.0.0.0/8", text)
		}
		config.TrustedProxies = append(config.TrustedProxies, network)
	}
	lock, err := store.LockFile(path)
	if errors.Is(err, store.ErrServed) {
		return inputErrorf("%s is served already; stop that server first, or name another file with --db", path)
	}
	if err != nil {
		return inputError{err}
	}
	defer lock.Release()
	if config.Store, err = open(path); err != nil {
		return inputError{err}
	}
	defer config.Store.Close()
	server, err := web.New(config)
	if err != nil {
		return err
	}
	defer server.Close()
	go server.Tend(ctx)
	go server.Work(ctx)
	listener, err := net.Listen("tcp", c.String("addr"))
	if err != nil {
		return inputErrorf("cannot serve on %s: %w; choose another with --addr", c.String("addr"), err)
	}
	fmt.Fprintf(s.out, "Valleyside is at http://%s\n", listener.Addr())
	if account != nil {
		fmt.Fprintf(s.out, "Sign in as %s with the password %s\n", account.Email, account.Password)
	}
	start := echo.StartConfig{Listener: listener, HideBanner: true, HidePort: true, GracefulTimeout: 10 * time.Second,
		BeforeServeFunc: func(h *http.Server) error {
			h.ReadHeaderTimeout = 10 * time.Second
			h.ReadTimeout = 30 * time.Second
			h.WriteTimeout = 2 * time.Minute
			h.IdleTimeout = 2 * time.Minute
			return nil
		}}
	if err := start.Start(ctx, server); err != nil && !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	log.Info("stopped")
	return nil
}

// proxyNetwork reads an address, or a network in the form 10.0.0.0/8.
func proxyNetwork(text string) (*net.IPNet, error) {
	if ip := net.ParseIP(text); ip != nil {
		bits := 8 * len(ip)
		if v4 := ip.To4(); v4 != nil {
			ip, bits = v4, 32
		}
		return &net.IPNet{IP: ip, Mask: net.CIDRMask(bits, bits)}, nil
	}
	_, network, err := net.ParseCIDR(text)
	return network, err
}

// memory is how much the machine has, in bytes, as far as it says; 0 where it does
// not.
func memory() int64 {
	text, err := os.ReadFile("/proc/meminfo")
	if err != nil {
		return 0
	}
	var kB int64
	fmt.Sscanf(string(text), "MemTotal: %d kB", &kB) //nolint:errcheck // 0 then
	return kB << 10
}
