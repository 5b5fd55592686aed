package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
	"saltkettle/core/solve"
)

// documentError is a file that cannot be read as a model, reported like other
// faults of the document.
func documentError(path string, err error) error {
	return &solve.ModelError{Findings: []model.Finding{{Severity: model.Wrong, Place: path, Message: err.Error()}}}
}

// readModel reads a model file; "-" is standard input.
func readModel(path string) (*model.Document, error) {
	var r io.Reader = os.Stdin
	if path != "-" {
		f, err := os.Open(path)
		if err != nil {
			return nil, err
		}
		defer f.Close()
		r = f
	}
	doc, err := model.Read(r)
	if err != nil {
		return nil, documentError(path, err)
	}
	return doc, nil
}

// addSetFlag adds the flag that gives parameters other values.
func addSetFlag(cmd *cobra.Command, sets *[]string) {
	cmd.Flags().StringArrayVar(sets, "set", nil, "give a parameter another value, `name=value`; may be repeated")
}

// readSet reads a model and gives parameters other values.
func readSet(path string, sets []string) (*model.Document, error) {
	doc, err := readModel(path)
	if err != nil {
		return nil, err
	}
	return doc, setParameters(doc, sets)
}

// setParameters gives parameters other values.
func setParameters(doc *model.Document, sets []string) error {
	for _, s := range sets {
		name, value, ok := strings.Cut(s, "=")
		if !ok {
			return fmt.Errorf("--set wants name=value, not %q", s)
		}
		if err := doc.SetParameter(strings.TrimSpace(name), strings.TrimSpace(value)); err != nil {
			return documentError("parameters", err)
		}
	}
	return nil
}

func solveCommand() *cobra.Command {
	var sets []string
	var out, earlier string
	var compared map[string]string
	var asJSON, resume bool
	var within, checkpoints time.Duration
	cmd := &cobra.Command{
		Use:   "solve FILE",
		Short: "solve a model and print its readings",
		Long: `Solve a model file and print its readings, balances and mesh.

A run in time with --out leaves checkpoints in its folder, and one when it is
interrupted: the same command with --resume goes on from the last one.

Exit codes: 0 settled; 2 the document is wrong or incomplete (each fault on a
line of standard error, with its place); 3 not settled; 1 anything else.`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readSet(args[0], sets)
			if err != nil {
				return err
			}
			if out != "" {
				if err := os.MkdirAll(out, 0o755); err != nil {
					return err
				}
			}
			if resume && out == "" {
				return errors.New("--resume goes on from the checkpoint in the folder of --out, which is not given")
			}
			opt := solve.Options{Dir: out, Now: time.Now, EstimateWithin: within, Checkpoints: checkpoints, Resume: resume}
			opt.Compared = func(number int) (*result.Result, error) {
				dir, given := compared[strconv.Itoa(number)]
				if !given {
					return nil, fmt.Errorf("give its folder with --compared %d=DIR", number)
				}
				return result.Load(dir)
			}
			if earlier != "" {
				opt.Earlier = func(int) (*result.Earlier, error) { return result.LoadEarlier(earlier) }
				if doc.Run.From == "" {
					doc.Run.From = "1"
				}
			}
			o, err := solve.Run(cmd.Context(), doc, opt)
			if err != nil {
				return err
			}
			if out != "" && o.Fields != nil {
				if err := export(out, o); err != nil {
					return err
				}
			}
			if asJSON {
				o.Document = nil
				o.Solver.History = nil
				enc := json.NewEncoder(cmd.OutOrStdout())
				enc.SetIndent("", "  ")
				err = enc.Encode(o.Result)
			} else {
				err = printResult(cmd.OutOrStdout(), o.Result)
			}
			if err != nil {
				return err
			}
			if o.Status != result.Settled {
				return errNotSettled
			}
			return nil
		},
	}
	addSetFlag(cmd, &sets)
	cmd.Flags().StringVar(&out, "out", "", "write the result folder, VTU and CSV to `DIR`")
	cmd.Flags().BoolVar(&resume, "resume", false, "go on from the checkpoint in that folder, if one is there")
	cmd.Flags().DurationVar(&checkpoints, "checkpoints", 20*time.Second, "leave another checkpoint of a run in time after `TIME`; 0: never")
	cmd.Flags().StringToStringVar(&compared, "compared", nil, "take run NUMBER, which readings are compared with, from the folder: `NUMBER=DIR`")
	cmd.Flags().StringVar(&earlier, "from", "", "begin where the result in the folder `DIR` ended")
	cmd.Flags().DurationVar(&within, "errors", solve.UsualEstimate, "estimate the errors of the readings if that takes no longer than `TIME`; negative: however long, 0: never")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print one JSON object")
	return cmd
}

// export writes the fields in open formats beside the result, and those of a run of several
// moments in a folder of their own.
func export(dir string, o *solve.Outcome) error {
	for name, write := range map[string]func(io.Writer) error{"result.vtu": o.Fields.WriteVTU, "nodes.csv": o.Fields.WriteCSV} {
		file, err := os.Create(filepath.Join(dir, name))
		if err != nil {
			return err
		}
		if err := errors.Join(write(file), file.Close()); err != nil {
			return err
		}
	}
	if len(o.Moments) == 0 {
		return nil
	}
	if err := os.MkdirAll(filepath.Join(dir, "moments"), 0o755); err != nil {
		return err
	}
	var last *os.File
	err := result.ExportMoments(dir, func(name string) (io.Writer, error) {
		err := last.Close()
		if last == nil {
			err = nil
		}
		if err == nil {
			last, err = os.Create(filepath.Join(dir, "moments", name))
		}
		return last, err
	})
	if last != nil {
		err = errors.Join(err, last.Close())
	}
	return err
}

func printResult(w io.Writer, r *result.Result) error {
	status := string(r.Status)
	if r.Reason != "" {
		status += ": " + r.Reason
	}
	_, err := fmt.Fprintf(w, "%s\n", status)
	for _, q := range r.Readings {
		if q.Missing != "" {
			fmt.Fprintf(w, "  %-4s %-28s no value: %s\n", q.Key, q.Name, q.Missing)
			continue
		}
		text := quantity.Show(q.Value, q.Shown.Unit, q.Difference, 5)
		if q.Error != nil {
			text += " " + quantity.Margin(*q.Error, q.Value, q.Shown.Unit)
		}
		fmt.Fprintf(w, "  %-4s %-28s %s\n", q.Key, q.Name, strings.TrimSpace(text))
	}
	for _, line := range r.UnknownErrors() {
		fmt.Fprintln(w, line)
	}
	if e := r.Ended; e != nil {
		fmt.Fprintf(w, "ended early, at %s, when %s came to hold\n", quantity.Show(e.At, "s", false, 6), e.Condition)
	}
	for i, m := range r.Modes {
		if m.Rate != 0 {
			fmt.Fprintf(w, "mode %d: decays with %s\n", i+1, quantity.Show(m.Rate, "1/s", false, 6))
		} else {
			fmt.Fprintf(w, "mode %d: %s\n", i+1, quantity.Show(m.Frequency, "Hz", false, 6))
		}
	}
	if names := r.SolvedFor(); len(names) > 0 {
		fmt.Fprintf(w, "solved for %s\n", strings.Join(names, ", "))
	}
	for _, b := range r.Balances {
		stored := ""
		if v, ok := b.Stored(); ok {
			stored = ", stored " + quantity.Show(v, b.Unit, false, 5)
		}
		fmt.Fprintf(w, "%s: in %s, out %s%s, open by %.1e\n", b.Name, quantity.Show(b.In, b.Unit, false, 5), quantity.Show(b.Out, b.Unit, false, 5), stored, b.Closure)
	}
	fmt.Fprintf(w, "%s nodes, %s cells, %d iterations, %.2f s\n", quantity.Count(r.Mesh.Nodes), quantity.Count(r.Mesh.Cells), r.Solver.Iterations, r.Seconds["total"])
	if rounds := r.Mesh.Words(); rounds != "" {
		fmt.Fprintln(w, rounds)
	}
	for _, s := range r.Warnings {
		fmt.Fprintf(w, "note: %s\n", s)
	}
	return err
}

func checkCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "check FILE",
		Short: "list what is missing, wrong or doubtful in a model",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readModel(args[0])
			if err != nil {
				return err
			}
			_, findings := model.Resolve(doc, physics.Catalog())
			for _, f := range findings {
				fmt.Fprintln(cmd.OutOrStdout(), f)
			}
			if blocking := model.Blocking(findings); len(blocking) > 0 {
				return &solve.ModelError{}
			}
			if len(findings) == 0 {
				fmt.Fprintln(cmd.OutOrStdout(), "Nothing missing. Ready to run.")
			}
			return nil
		},
	}
}

func diffCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "diff A B",
		Short: "say in sentences what changed from one model to another",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			older, err := readModel(args[0])
			if err != nil {
				return err
			}
			newer, err := readModel(args[1])
			if err != nil {
				return err
			}
			changes := model.Diff(older, newer, physics.Catalog())
			for _, c := range changes {
				fmt.Fprintln(cmd.OutOrStdout(), c)
			}
			if len(changes) == 0 {
				fmt.Fprintln(cmd.OutOrStdout(), "Nothing that changes the result.")
			}
			return nil
		},
	}
}
