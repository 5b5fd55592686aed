package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"saltkettle/app/jobs"
	"saltkettle/app/store"
	"saltkettle/app/web"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/examples"
)

// defaultData is the data folder when none is named.
func defaultData() string {
	if dir, err := os.UserConfigDir(); err == nil {
		return filepath.Join(dir, "saltkettle")
	}
	return "saltkettle-data"
}

func serveCommand() *cobra.Command {
	var data, listen string
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "start the web interface",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), data, listen, false)
		},
	}
	cmd.Flags().StringVar(&data, "data", defaultData(), "data folder")
	cmd.Flags().StringVar(&listen, "listen", "127.0.0.1:8420", "address; the default answers only this machine")
	return cmd
}

func demoCommand() *cobra.Command {
	var data, listen string
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "start the web interface with the demo models on the shelf",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), data, listen, true)
		},
	}
	cmd.Flags().StringVar(&data, "data", filepath.Join("data", "demo"), "data folder")
	cmd.Flags().StringVar(&listen, "listen", "127.0.0.1:8420", "address; the default answers only this machine")
	return cmd
}

func workCommand() *cobra.Command {
	return &cobra.Command{
		Use:    "work",
		Short:  "solve one task from standard input (started by the server)",
		Hidden: true,
		Args:   cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return jobs.Work(cmd.Context(), cmd.InOrStdin(), cmd.OutOrStdout())
		},
	}
}

// serve runs the server until the context ends.
func serve(ctx context.Context, data, listen string, demo bool) error {
	log := slog.New(slog.NewTextHandler(os.Stderr, nil))
	s, err := store.Open(data)
	if err != nil {
		return err
	}
	defer s.Close()
	exe, err := os.Executable()
	if err != nil {
		return fmt.Errorf("the program cannot find itself to start workers: %w", err)
	}
	manager := jobs.New(s, []string{exe, "work"}, log)
	if demo {
		if err := fillShelf(ctx, s); err != nil {
			return err
		}
	}
	if err := manager.Start(ctx); err != nil {
		return err
	}
	site, err := web.New(s, manager, log)
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", listen)
	if err != nil {
		return fmt.Errorf("the address %s cannot be used: %w", listen, err)
	}
	server := &http.Server{
		Handler:           site.Handler(),
		ReadHeaderTimeout: 10 * time.Second,
		ReadTimeout:       time.Minute,
		IdleTimeout:       2 * time.Minute,
		// Streams of events end with the server.
		BaseContext: func(net.Listener) context.Context { return ctx },
	}
	fmt.Printf("Salt Kettle is at http://%s/ with its data in %s. Ctrl+C ends it.\n", listener.Addr(), data)
	ended := make(chan error, 1)
	go func() { ended <- server.Serve(listener) }()
	select {
	case err := <-ended:
		return err
	case <-ctx.Done():
	}
	shut, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	err = server.Shutdown(shut)
	manager.Wait()
	if errors.Is(err, context.DeadlineExceeded) {
		err = server.Close()
	}
	return err
}

// fillShelf puts the demo models on an empty shelf and queues a run of each.
func fillShelf(ctx context.Context, s *store.Store) error {
	list, err := s.Models(ctx)
	if err != nil || len(list) > 0 {
		return err
	}
	for i := len(examples.List) - 1; i >= 0; i-- {
		doc, err := examples.Load(examples.List[i].Key)
		if err != nil {
			return err
		}
		doc.CarryAll()
		m, err := s.CreateModel(ctx, doc)
		if err != nil {
			return err
		}
		if _, findings := model.Resolve(doc, physics.Catalog()); len(model.Blocking(findings)) > 0 {
			continue // a shape whose physics is still to be said
		}
		if _, err := s.QueueRun(ctx, m.ID, false); err != nil {
			return err
		}
	}
	return nil
}
