package fmu

import (
	"archive/zip"
	"context"
	"crypto/sha256"
	"embed"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"saltkettle/core/quantity"
)

//go:embed source
var sources embed.FS

// ErrNoCompiler says that the unit was written without a library, as there is no C compiler on this machine.
var ErrNoCompiler = errors.New("there is no C compiler on this machine, so that the unit has its sources alone; install gcc for the library")

// The parts of a model description that are needed here, by the schema of FMI 3.0.
type (
	description struct {
		XMLName xml.Name `xml:"fmiModelDescription"`
		Version string   `xml:"fmiVersion,attr"`
		Name    string   `xml:"modelName,attr"`
		Token   string   `xml:"instantiationToken,attr"`
		About   string   `xml:"description,attr"`
		Date    string   `xml:"generationDateAndTime,attr"`
		Tool    string   `xml:"generationTool,attr"`
		Naming  string   `xml:"variableNamingConvention,attr"`

		Simulation coSimulation `xml:"CoSimulation"`
		Units      []unit       `xml:"UnitDefinitions>Unit,omitempty"`
		Logs       []category   `xml:"LogCategories>Category"`
		Experiment experiment   `xml:"DefaultExperiment"`
		Variables  []variable   `xml:"ModelVariables>Float64"`
		Structure  structure    `xml:"ModelStructure"`
	}
	coSimulation struct {
		Identifier string `xml:"modelIdentifier,attr"`
		Variable   bool   `xml:"canHandleVariableCommunicationStepSize,attr"`
	}
	unit struct {
		Name string `xml:"name,attr"`
		Base *base  `xml:"BaseUnit,omitempty"`
	}
	base struct {
		M      int     `xml:"m,attr,omitempty"`
		Kg     int     `xml:"kg,attr,omitempty"`
		S      int     `xml:"s,attr,omitempty"`
		A      int     `xml:"A,attr,omitempty"`
		K      int     `xml:"K,attr,omitempty"`
		Mol    int     `xml:"mol,attr,omitempty"`
		Cd     int     `xml:"cd,attr,omitempty"`
		Rad    int     `xml:"rad,attr,omitempty"`
		Factor float64 `xml:"factor,attr"`
		Offset float64 `xml:"offset,attr"`
	}
	category struct {
		Name string `xml:"name,attr"`
	}
	experiment struct {
		Start float64 `xml:"startTime,attr"`
		Stop  float64 `xml:"stopTime,attr"`
		Step  float64 `xml:"stepSize,attr"`
	}
	variable struct {
		Name        string  `xml:"name,attr"`
		Reference   int     `xml:"valueReference,attr"`
		Causality   string  `xml:"causality,attr"`
		Variability string  `xml:"variability,attr"`
		Initial     string  `xml:"initial,attr,omitempty"`
		About       string  `xml:"description,attr,omitempty"`
		Unit        string  `xml:"unit,attr,omitempty"`
		Min         *string `xml:"min,attr,omitempty"`
		Max         *string `xml:"max,attr,omitempty"`
		Start       *string `xml:"start,attr,omitempty"`
	}
	structure struct {
		Outputs  []unknown `xml:"Output"`
		Unknowns []unknown `xml:"InitialUnknown"`
	}
	unknown struct {
		Reference    int    `xml:"valueReference,attr"`
		Dependencies string `xml:"dependencies,attr"`
	}
)

// describe is the model description of a function.
func (f *Function) describe(now time.Time) *description {
	d := &description{Version: "3.0", Name: f.Name, Token: f.token(), About: f.About, Date: now.UTC().Format(time.RFC3339), Tool: "Salt Kettle", Naming: "flat",
		Simulation: coSimulation{Identifier(f.Name), true}, Logs: []category{{"logStatusWarning"}, {"logStatusError"}}, Experiment: experiment{0, 1, 1}}
	seen := map[string]bool{}
	name := func(u quantity.Unit, difference bool) string {
		key := u.Text
		if difference && u.Affine() {
			key, u.Offset = "K", 0
		}
		if key != "" && !seen[key] {
			seen[key] = true
			known := unit{Name: key}
			if e, whole := u.Dimension.Exponents(); whole {
				known.Base = &base{e[0], e[1], e[2], e[3], e[4], e[5], e[6], e[7], u.Factor, u.Offset}
			}
			d.Units = append(d.Units, known)
		}
		return key
	}
	d.Variables = append(d.Variables, variable{Name: "time", Causality: "independent", Variability: "continuous"})
	var all []string
	for i, in := range f.Inputs {
		least, most, start := plain(min(in.From, in.To)), plain(max(in.From, in.To)), plain(in.Start)
		d.Variables = append(d.Variables, variable{Name: in.Name, Reference: 1 + i, Causality: "input", Variability: "continuous", Unit: name(in.Unit, false), Min: &least, Max: &most, Start: &start})
		all = append(all, fmt.Sprint(1+i))
	}
	for i, o := range f.Outputs {
		r := 1 + len(f.Inputs) + i
		d.Variables = append(d.Variables, variable{Name: o.Name, Reference: r, Causality: "output", Variability: "continuous", Initial: "calculated", About: o.About, Unit: name(o.Unit, o.Difference)})
		d.Structure.Outputs = append(d.Structure.Outputs, unknown{r, strings.Join(all, " ")})
	}
	d.Structure.Unknowns = d.Structure.Outputs
	return d
}

// plain is a number as a description holds it.
func plain(x float64) string { return fmt.Sprintf("%.15g", x) }

// token is of this function alone.
func (f *Function) token() string {
	return fmt.Sprintf("{%x}", sha256.Sum256([]byte(f.C())))[:37] + "}"
}

// variables is the header of what differs from unit to unit.
func (f *Function) variables() string {
	var least, most, start []float64
	for _, in := range f.Inputs {
		// A little room for what round-off makes of an end.
		room := 1e-9 * math.Abs(in.To-in.From)
		least, most, start = append(least, min(in.From, in.To)-room), append(most, max(in.From, in.To)+room), append(start, in.Start)
	}
	return fmt.Sprintf("#define INPUTS %d\n#define OUTPUTS %d\n#define TOKEN \"%s\"\nstatic const double LEAST[] = {%s};\nstatic const double MOST[] = {%s};\nstatic const double START[] = {%s};\n",
		len(f.Inputs), len(f.Outputs), f.token(), numbers(least), numbers(most), numbers(start))
}

// files are the sources of the unit by their names.
func (f *Function) files() (map[string][]byte, error) {
	out := map[string][]byte{"surface.c": []byte(f.C()), "variables.h": []byte(f.variables())}
	for _, name := range []string{"fmi3.c", "fmi3.h", "surface.h"} {
		data, err := sources.ReadFile("source/" + name)
		if err != nil {
			return nil, err
		}
		out[name] = data
	}
	return out, nil
}

// sourceNames are those in the order of the archive.
var sourceNames = []string{"fmi3.c", "surface.c", "fmi3.h", "surface.h", "variables.h"}

// Write writes the function as a unit. [ErrNoCompiler] says that it is complete but for its library.
func (f *Function) Write(ctx context.Context, w io.Writer, now time.Time) error {
	files, err := f.files()
	if err != nil {
		return err
	}
	library, libraryErr := compile(ctx, files)
	if libraryErr != nil && !errors.Is(libraryErr, ErrNoCompiler) {
		return libraryErr
	}
	text, err := xml.MarshalIndent(f.describe(now), "", "  ")
	if err != nil {
		return err
	}
	z := zip.NewWriter(w)
	add := func(name string, data []byte) {
		if err != nil {
			return
		}
		var e io.Writer
		if e, err = z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: now}); err == nil {
			_, err = e.Write(data)
		}
	}
	add("modelDescription.xml", append([]byte(xml.Header), text...))
	if library != nil {
		add("binaries/x86_64-linux/"+Identifier(f.Name)+".so", library)
	}
	add("sources/buildDescription.xml", []byte(fmt.Sprintf(xml.Header+`<fmiBuildDescription fmiVersion="3.0">
  <BuildConfiguration modelIdentifier="%s">
    <SourceFileSet language="C99">
      <SourceFile name="fmi3.c"/>
      <SourceFile name="surface.c"/>
    </SourceFileSet>
    <Library name="m" external="true"/>
  </BuildConfiguration>
</fmiBuildDescription>
`, Identifier(f.Name))))
	for _, name := range sourceNames {
		add("sources/"+name, files[name])
	}
	if err == nil {
		err = z.Close()
	}
	if err != nil {
		return err
	}
	return libraryErr
}

// compile makes the library of the sources.
func compile(ctx context.Context, files map[string][]byte) ([]byte, error) {
	cc, err := exec.LookPath("cc")
	if err != nil {
		return nil, ErrNoCompiler
	}
	dir, err := os.MkdirTemp("", "unit")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	for name, data := range files {
		if err := os.WriteFile(filepath.Join(dir, name), data, 0o600); err != nil {
			return nil, err
		}
	}
	cmd := exec.CommandContext(ctx, cc, "-std=c99", "-O2", "-fPIC", "-shared", "-fvisibility=hidden", "-Wall", "-Wextra", "-Werror", "-o", "unit.so", "fmi3.c", "surface.c", "-lm")
	cmd.Dir = dir
	if text, err := cmd.CombinedOutput(); err != nil {
		return nil, fmt.Errorf("the library cannot be built: %w: %s", err, text)
	}
	return os.ReadFile(filepath.Join(dir, "unit.so"))
}
