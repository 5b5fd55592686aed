package main

import (
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	"saltkettle/app/store"
	"saltkettle/core/quantity"
)

// errUnwell ends the program after what is wrong was printed.
var errUnwell = errors.New("the data folder is not in order")

// onData gives a command the flag that names its data folder.
func onData(cmd *cobra.Command, data *string) *cobra.Command {
	cmd.Flags().StringVar(data, "data", defaultData(), "data folder")
	return cmd
}

func backupCommand() *cobra.Command {
	var data string
	return onData(&cobra.Command{
		Use:   "backup FILE",
		Short: "write a data folder into one file; a server may be at work in it",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			kept, err := store.Backup(cmd.Context(), data, args[0])
			if err != nil {
				return err
			}
			return told("written to "+args[0], kept)
		},
	}, &data)
}

func restoreCommand() *cobra.Command {
	var data string
	return onData(&cobra.Command{
		Use:   "restore FILE",
		Short: "make a data folder from a backup; the folder must be empty or not exist",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			kept, err := store.Restore(cmd.Context(), args[0], data)
			if err != nil {
				return err
			}
			return told("restored to "+data, kept)
		},
	}, &data)
}

func doctorCommand() *cobra.Command {
	var data string
	var mend bool
	cmd := &cobra.Command{
		Use:   "doctor",
		Short: "look whether a data folder is in order; no server may be at work in it",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			found, err := store.Examine(cmd.Context(), data, mend)
			if err != nil {
				return err
			}
			for _, c := range found.Complaints {
				advice := c.Advice
				if c.Mended {
					advice = "mended"
				}
				fmt.Printf("%s\n    %s\n", c.What, advice)
			}
			if !found.Well() {
				return errUnwell
			}
			fmt.Printf("%s is in order: %s\n", data, counts(found.Kept))
			return nil
		},
	}
	cmd.Flags().BoolVar(&mend, "mend", false, "mend what can be; results that are damaged are put aside, not deleted")
	return onData(cmd, &data)
}

func counts(k store.Kept) string {
	return fmt.Sprintf("%s models, %s revisions, %s results", quantity.Count(k.Models), quantity.Count(k.Revisions), quantity.Count(k.Runs))
}

// told says what was kept, and what of it is damaged.
func told(what string, kept store.Kept) error {
	fmt.Printf("%s %s\n", counts(kept), what)
	for _, d := range kept.Damaged {
		fmt.Println(d)
	}
	if len(kept.Damaged) > 0 {
		return errUnwell
	}
	return nil
}
