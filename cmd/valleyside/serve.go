package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"runtime/debug"
	"syscall"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/urfave/cli/v3"

	"valleyside/demo"
	"valleyside/store"
	"valleyside/web"
)

func dbFlag(usual string) cli.Flag {
	return &cli.StringFlag{Name: "db", Value: usual, Usage: "the database `FILE`", Sources: cli.EnvVars("VALLEYSIDE_DB")}
}

func serverFlags(db string) []cli.Flag {
	return []cli.Flag{
		jsonFlag(),
		&cli.StringFlag{Name: "addr", Value: "127.0.0.1:8080", Usage: "the address to serve on", Sources: cli.EnvVars("VALLEYSIDE_ADDR")},
		dbFlag(db),
		&cli.BoolFlag{Name: "secure", Usage: "mark cookies for https only", Sources: cli.EnvVars("VALLEYSIDE_SECURE")},
		&cli.StringFlag{Name: "log", Value: "info", Usage: "debug, info, warn or error", Sources: cli.EnvVars("VALLEYSIDE_LOG")},
	}
}

func (s *streams) serveCommand() *cli.Command {
	return &cli.Command{
		Name: "serve", Usage: "start the web application",
		Flags: serverFlags("valleyside.db"),
		Action: func(ctx context.Context, c *cli.Command) error {
			return s.serve(ctx, c, nil)
		},
	}
}

func (s *streams) demoCommand() *cli.Command {
	return &cli.Command{
		Name: "demo", Usage: "start it with a made-up studio to try",
		Flags: append(serverFlags(filepath.Join(os.TempDir(), "valleyside-demo.db")),
			&cli.BoolFlag{Name: "fresh", Usage: "make the demo studio anew"}),
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Bool("fresh") {
				for _, end := range []string{"", "-wal", "-shm"} {
					if err := os.Remove(c.String("db") + end); err != nil && !errors.Is(err, os.ErrNotExist) {
						return inputErrorf("cannot make the demo anew: %w", err)
					}
				}
			}
			return s.serve(ctx, c, &web.DemoAccount{Email: demo.Email, Password: demo.Password})
		},
	}
}

// heap is how much memory the garbage collector tries to stay below, so that
// a small machine can serve many pages at once. GOMEMLIMIT sets another.
const heap = 48 << 20

// serve runs the web application until it is told to stop.
func (s *streams) serve(ctx context.Context, c *cli.Command, account *web.DemoAccount) error {
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
		debug.SetMemoryLimit(heap)
	}
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer stop()
	st, err := store.Open(ctx, c.String("db"))
	if err != nil {
		return inputError{err}
	}
	defer st.Close()
	if account != nil {
		if err := demo.Fill(ctx, st, time.Now()); err != nil {
			return err
		}
	}
	server, err := web.New(web.Config{Store: st, Log: log, Secure: c.Bool("secure"), Demo: account})
	if err != nil {
		return err
	}
	defer server.Close()
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
			h.IdleTimeout = 2 * time.Minute
			return nil
		}}
	if err := start.Start(ctx, server); err != nil && !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	log.Info("stopped")
	return nil
}

func (s *streams) backupCommand() *cli.Command {
	return &cli.Command{
		Name: "backup", Usage: "write a consistent copy of the database, also while it is served", ArgsUsage: "FILE",
		Flags: []cli.Flag{jsonFlag(), dbFlag("valleyside.db")},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return errors.New("backup takes one FILE to write")
			}
			if _, err := os.Stat(c.String("db")); err != nil {
				return inputErrorf("there is no database %s; name it with --db", c.String("db"))
			}
			st, err := store.Open(ctx, c.String("db"))
			if err != nil {
				return inputError{err}
			}
			defer st.Close()
			to := c.Args().First()
			if err := st.Backup(ctx, to); err != nil {
				return inputError{err}
			}
			if c.Bool("json") {
				return s.printJSON(map[string]string{"backup": to})
			}
			_, err = fmt.Fprintf(s.out, "Copied %s to %s\n", c.String("db"), to)
			return err
		},
	}
}
