package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"maps"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/spf13/cobra"
	"gopkg.in/natefinch/lumberjack.v2"

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

// serving is what the commands that serve are told.
type serving struct {
	data, listen string
	noKey        bool
	names        []string
	memory       float64 // that a run may take, GB
}

func serveCommand() *cobra.Command {
	return servingCommand(&cobra.Command{Use: "serve", Short: "start the web interface"}, defaultData(), false)
}

func demoCommand() *cobra.Command {
	return servingCommand(&cobra.Command{Use: "demo", Short: "start the web interface with the demo models on the shelf"}, filepath.Join("data", "demo"), true)
}

func servingCommand(cmd *cobra.Command, data string, demo bool) *cobra.Command {
	var s serving
	cmd.Args = cobra.NoArgs
	cmd.RunE = func(cmd *cobra.Command, _ []string) error { return s.serve(cmd.Context(), demo) }
	cmd.Flags().StringVar(&s.data, "data", data, "data folder")
	cmd.Flags().StringVar(&s.listen, "listen", "127.0.0.1:8420", "address; the default answers only this machine")
	cmd.Flags().BoolVar(&s.noKey, "no-key", false, "let everybody in who reaches the address, which has to be one of this machine alone")
	cmd.Flags().StringArrayVar(&s.names, "name", nil, "answer to another host `NAME`, too; may be repeated")
	cmd.Flags().Float64Var(&s.memory, "memory", 0, "how much memory a run may take, `GB`; 0 means what is left on the machine")
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
func (o *serving) serve(ctx context.Context, demo bool) error {
	data, listen := o.data, o.listen
	// The log also goes to a file in the data folder, which does not grow without end.
	kept := &lumberjack.Logger{Filename: filepath.Join(data, "log", "saltkettle.log"), MaxSize: 10, MaxBackups: 5} // MB
	defer kept.Close()
	log := slog.New(slog.NewTextHandler(io.MultiWriter(os.Stderr, kept), nil))
	// Nothing is changed in the folder before it is certain that this server will answer.
	listener, err := net.Listen("tcp", listen)
	if err != nil {
		return fmt.Errorf("the address %s cannot be used: %w", listen, err)
	}
	defer listener.Close()
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
	manager.Memory = int64(o.memory * 1e9)
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
	key := ""
	if !o.noKey {
		if key, err = web.LoadKey(data); err != nil {
			return err
		}
	}
	guard, err := web.NewGuard(listener.Addr(), key, o.names...)
	if err != nil {
		return err
	}
	server := &http.Server{
		Handler:           guard.Handler(site.Handler()),
		ReadHeaderTimeout: 10 * time.Second,
		ReadTimeout:       time.Minute,
		WriteTimeout:      10 * time.Minute, // a reader that does not read
		IdleTimeout:       2 * time.Minute,
		// Streams of events end with the server.
		BaseContext: func(net.Listener) context.Context { return ctx },
	}
	fmt.Printf("Salt Kettle is at %s with its data in %s. Ctrl+C ends it.\n", guard.Link(fmt.Sprintf("http://%s/", listener.Addr())), data)
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

// fillShelf puts the demo models on an empty shelf and queues a run of each but of those that take long: of those first that stand first,
// which are looked at first.
func fillShelf(ctx context.Context, s *store.Store) error {
	list, err := s.Models(ctx)
	if err != nil || len(list) > 0 {
		return err
	}
	runs := map[int]uint{}
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
		if !examples.List[i].Long {
			runs[i] = m.ID
		}
	}
	for _, i := range slices.Sorted(maps.Keys(runs)) {
		if _, err := s.QueueRun(ctx, runs[i], store.Wishes{}); err != nil {
			return err
		}
	}
	return nil
}
