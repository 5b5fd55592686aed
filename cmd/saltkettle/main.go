// Command saltkettle is the whole product: the server with its web interface,
// and the same computation from the command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"

	"saltkettle/core/solve"
)

// Exit codes of the command line.
const (
	exitSettled    = 0
	exitOther      = 1
	exitModel      = 2 // the document is wrong or incomplete
	exitNotSettled = 3
)

// errNotSettled ends the program with its exit code after the result was
// printed.
var errNotSettled = errors.New("the run did not settle")

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	os.Exit(run(ctx, os.Args[1:]))
}

// run executes a command line and returns the exit code.
func run(ctx context.Context, args []string) int {
	root := &cobra.Command{
		Use:           "saltkettle",
		Short:         "models how heat, current, flow, fields, sound and strain act in a device, and finds a better one",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(demoCommand(), serveCommand(), solveCommand(), sweepCommand(), slopesCommand(), meshCommand(), exportCommand(), checkCommand(), diffCommand(), backupCommand(), restoreCommand(), doctorCommand(), workCommand())
	root.SetArgs(args)
	err := root.ExecuteContext(ctx)
	var wrong *solve.ModelError
	switch {
	case err == nil:
		return exitSettled
	case errors.As(err, &wrong):
		for _, f := range wrong.Findings {
			fmt.Fprintln(os.Stderr, f)
		}
		return exitModel
	case errors.Is(err, errNotSettled):
		return exitNotSettled
	}
	fmt.Fprintln(os.Stderr, "saltkettle:", err)
	return exitOther
}
