package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"saltkettle/core/drawing"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/solve"
)

// meshCommand meshes a model without solving it.
func meshCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "mesh FILE",
		Short: "mesh a model and say how good the mesh is",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readModel(args[0])
			if err != nil {
				return err
			}
			resolved, _ := model.Resolve(doc, physics.Catalog())
			began := time.Now()
			m, owners, err := resolved.MeshOf(cmd.Context(), 0, nil)
			took := time.Since(began)
			if err != nil {
				return meshError(err)
			}
			look := drawing.NewMeshLook(resolved, physics.Catalog(), m, owners, drawing.Plane{Axis: -1})
			w := cmd.OutOrStdout()
			fmt.Fprintf(w, "%s cells, %s nodes, %.3f s; %s\n", quantity.Count(look.Cells), quantity.Count(look.Nodes), took.Seconds(), look.Words)
			fmt.Fprintln(w, "cells by their least angle:")
			for i, n := range look.Angles {
				if n > 0 {
					fmt.Fprintf(w, "  %2d°–%2d°  %s\n", 5*i, 5*i+5, quantity.Count(n))
				}
			}
			for _, p := range look.Worst {
				fmt.Fprintln(w, "worst:", p.Words)
			}
			for _, n := range look.Notes {
				fmt.Fprintln(w, "note:", n.Words)
			}
			return nil
		},
	}
}

// meshError makes a fault of meshing one of the document.
func meshError(err error) error {
	var fault *model.PlaceError
	if errors.As(err, &fault) {
		return &solve.ModelError{Findings: []model.Finding{fault.Finding}}
	}
	return err
}

// exportCommand writes the shape of a model in an open format.
func exportCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "export FILE OUT",
		Short: "write the device as OUT.stl, its plan as OUT.dxf or its drawing as OUT.svg",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readModel(args[0])
			if err != nil {
				return err
			}
			resolved, _ := model.Resolve(doc, physics.Catalog())
			var b strings.Builder
			switch ext := strings.ToLower(filepath.Ext(args[1])); ext {
			case ".stl":
				m, owners, err := resolved.MeshOf(cmd.Context(), 0, nil)
				if err != nil {
					return meshError(err)
				}
				err = drawing.WriteSTL(&b, resolved, m, owners)
				if err != nil {
					return err
				}
			case ".dxf":
				if err := drawing.WriteDXF(&b, resolved); err != nil {
					return err
				}
			case ".svg":
				b.WriteString(drawing.NewScene(resolved, physics.Catalog()).Thumbnail(1200, 800))
			default:
				return fmt.Errorf("a shape is written as .stl, .dxf or .svg, not as %q", ext)
			}
			return os.WriteFile(args[1], []byte(b.String()), 0o644)
		},
	}
}
