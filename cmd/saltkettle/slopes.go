package main

import (
	"fmt"
	"io"
	"math"

	"github.com/spf13/cobra"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/solve"
)

func slopesCommand() *cobra.Command {
	var by, sets []string
	cmd := &cobra.Command{
		Use:   "slopes FILE",
		Short: "find how the readings change with parameters",
		Long: `Run a steady model and find how its readings change with parameters: by how much
for one per cent more of each. The equations are solved anew from the solution at
hand on the same mesh, which takes a step or two for each parameter.`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readSet(args[0], sets)
			if err != nil {
				return err
			}
			if len(by) == 0 {
				for _, p := range doc.Parameters {
					by = append(by, p.Name)
				}
			}
			out, list, err := solve.Slopes(cmd.Context(), doc, by, solve.Options{Lean: true})
			if err != nil {
				return err
			}
			resolved, _ := model.Resolve(doc, physics.Catalog())
			writeSlopes(cmd.OutOrStdout(), resolved, out, list)
			return nil
		},
	}
	cmd.Flags().StringSliceVar(&by, "by", nil, "the parameters, all if none is named; names parted by commas")
	addSetFlag(cmd, &sets)
	return cmd
}

// writeSlopes writes a line for each reading and parameter.
func writeSlopes(w io.Writer, r *model.Resolved, out *solve.Outcome, list []solve.Slope) {
	for i := range r.Readings {
		q := &r.Readings[i]
		for _, s := range list {
			of, ok := s.Of[q.ID]
			if !ok {
				continue
			}
			change := of * math.Abs(r.Parameters[s.Parameter].SI) / 100
			fmt.Fprintf(w, "%-4s %-28s %s for 1 %% more %s\n", q.ID, readingWords(r, q), quantity.Show(change, readingUnit(q), true, 5), s.Parameter)
		}
	}
	for _, s := range list {
		if s.Missing != "" {
			fmt.Fprintf(w, "%s: %s\n", s.Parameter, s.Missing)
		}
	}
	fmt.Fprintln(w, out.Status)
}
