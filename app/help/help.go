// Package help renders what users read, and finds paragraphs in it.
package help

import (
	"bytes"
	"cmp"
	"fmt"
	"html/template"
	"io/fs"
	"path"
	"slices"
	"strings"
	"unicode"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/text"
)

// Page is a document.
type Page struct {
	Key, Title string
	Body       template.HTML
	Sections   []Section
}

// Schema is the JSON Schema of model files, which documents lead to.
const Schema = "model.schema.json"

// Section is what stands below a heading, up to the next one.
type Section struct {
	Page    *Page
	ID      string // of the heading in the page
	Heading string
	Level   int
	text    string
	words   []string // in lower case
}

// Book is all pages in the order in which they are offered.
type Book struct{ Pages []*Page }

// order is that of the pages.
var order = []string{"guide", "model", "formulas", "materials", "units", "theory", "validation", "reliability"}

// Load renders the documents of a folder.
func Load(files fs.FS) (*Book, error) {
	md := goldmark.New(goldmark.WithExtensions(extension.Table), goldmark.WithParserOptions(parser.WithAutoHeadingID()))
	b := &Book{}
	for _, key := range order {
		source, err := fs.ReadFile(files, key+".md")
		if err != nil {
			return nil, fmt.Errorf("help: %w", err)
		}
		tree := md.Parser().Parse(text.NewReader(source))
		page := &Page{Key: key, Title: key}
		if err := ast.Walk(tree, func(n ast.Node, entering bool) (ast.WalkStatus, error) {
			if link, ok := n.(*ast.Link); ok && entering {
				link.Destination = []byte(address(string(link.Destination)))
			}
			return ast.WalkContinue, nil
		}); err != nil {
			return nil, err
		}
		leaveOut(tree, source)
		page.divide(tree, source)
		var out bytes.Buffer
		if err := md.Renderer().Render(&out, source, tree); err != nil {
			return nil, fmt.Errorf("help: %s: %w", key, err)
		}
		page.Body = template.HTML(out.String()) // raw HTML of the documents is left out by the renderer
		b.Pages = append(b.Pages, page)
	}
	return b, nil
}

// leaveOut takes comments out of a document.
func leaveOut(tree ast.Node, source []byte) {
	for n := tree.FirstChild(); n != nil; {
		next := n.NextSibling()
		if h, ok := n.(*ast.HTMLBlock); ok && h.Lines().Len() > 0 {
			line := h.Lines().At(0)
			if bytes.HasPrefix(line.Value(source), []byte("<!--")) {
				tree.RemoveChild(tree, n)
			}
		}
		n = next
	}
}

// address makes a link between documents one between pages.
func address(link string) string {
	file, place, _ := strings.Cut(link, "#")
	key, isDocument := strings.CutSuffix(path.Base(file), ".md")
	if file == Schema {
		return "/help/" + Schema
	}
	if !isDocument || strings.Contains(file, "://") || !slices.Contains(order, key) {
		return link
	}
	if place != "" {
		place = "#" + place
	}
	return "/help/" + key + place
}

// divide makes sections of a page.
func (p *Page) divide(tree ast.Node, source []byte) {
	for n := tree.FirstChild(); n != nil; n = n.NextSibling() {
		if h, ok := n.(*ast.Heading); ok {
			id, _ := h.AttributeString("id")
			name, _ := id.([]byte)
			s := Section{Page: p, ID: string(name), Heading: plain(h, source), Level: h.Level}
			if h.Level == 1 {
				p.Title = s.Heading
			}
			p.Sections = append(p.Sections, s)
			continue
		}
		if len(p.Sections) > 0 {
			p.Sections[len(p.Sections)-1].text += " " + plain(n, source)
		}
	}
	for i := range p.Sections {
		s := &p.Sections[i]
		s.text = strings.Join(strings.Fields(s.text), " ")
		s.words = wordsOf(s.Heading + " " + s.text)
	}
}

// plain is the text of a node without marks.
func plain(n ast.Node, source []byte) string {
	var b strings.Builder
	_ = ast.Walk(n, func(n ast.Node, entering bool) (ast.WalkStatus, error) { // the walker has no errors
		switch t := n.(type) {
		case *ast.Text:
			if entering {
				b.Write(t.Segment.Value(source))
				if t.SoftLineBreak() || t.HardLineBreak() {
					b.WriteByte(' ')
				}
			}
		case *ast.CodeBlock, *ast.FencedCodeBlock:
			if entering {
				for i := range n.Lines().Len() {
					line := n.Lines().At(i)
					b.Write(line.Value(source))
				}
			}
		default:
			if !entering && n.Type() == ast.TypeBlock {
				b.WriteByte(' ')
			}
		}
		return ast.WalkContinue, nil
	})
	return strings.TrimSpace(b.String())
}

// wordsOf are the words of a text in lower case.
func wordsOf(text string) []string {
	return strings.FieldsFunc(strings.ToLower(text), func(c rune) bool { return !unicode.IsLetter(c) && !unicode.IsDigit(c) && c != '_' })
}

// Page finds a page by its key.
func (b *Book) Page(key string) (*Page, bool) {
	for _, p := range b.Pages {
		if p.Key == key {
			return p, true
		}
	}
	return nil, false
}

// About finds the section with a heading, such as the kind of a sentence.
func (b *Book) About(heading string) (Section, bool) {
	for _, p := range b.Pages {
		for _, s := range p.Sections {
			if strings.EqualFold(s.Heading, heading) {
				return s, true
			}
		}
	}
	return Section{}, false
}

// Found is a section that a search found, with the words around what was looked for.
type Found struct {
	Section
	Before, Match, After string
}

// Address is that of the section.
func (s Section) Address() string {
	return "/help/" + s.Page.Key + "#" + s.ID
}

// around is how many bytes of the text are shown on each side of a match.
const around = 90

// Search finds the sections that have all words of a question, or words that begin so; those that have
// them in their headings come first, then those that have them oftener for their length.
func (b *Book) Search(question string, most int) []Found {
	terms := wordsOf(question)
	if len(terms) == 0 {
		return nil
	}
	type scored struct {
		s     *Section
		score float64
	}
	var list []scored
	for _, p := range b.Pages {
		for i := range p.Sections {
			s := &p.Sections[i]
			heading := wordsOf(s.Heading)
			score := 0.0
			for _, term := range terms {
				n := 0.0
				for _, w := range s.words {
					if w == term {
						n++
					} else if strings.HasPrefix(w, term) {
						n += 0.7
					}
				}
				if n == 0 {
					score = 0
					break
				}
				score += n / (n + 1.5) * 40 / (40 + float64(len(s.words))*0.1)
				if slices.ContainsFunc(heading, func(w string) bool { return strings.HasPrefix(w, term) }) {
					score += 2
				}
			}
			if p.Key == order[0] { // what is done comes before how it is computed
				score *= 1.5
			}
			if score > 0 {
				list = append(list, scored{s, score})
			}
		}
	}
	slices.SortStableFunc(list, func(x, y scored) int { return cmp.Compare(y.score, x.score) })
	var out []Found
	for _, x := range list[:min(len(list), most)] {
		f := Found{Section: *x.s}
		f.Before, f.Match, f.After = excerpt(x.s.text, terms)
		out = append(out, f)
	}
	return out
}

// excerpt is the words around the first term that a text has.
func excerpt(text string, terms []string) (before, match, after string) {
	lower := strings.ToLower(text)
	at, length := -1, 0
	for _, term := range terms {
		if i := strings.Index(lower, term); i >= 0 && (at < 0 || i < at) {
			at, length = i, len(term)
		}
	}
	if at < 0 || len(lower) != len(text) {
		return cut(text, 2*around), "", ""
	}
	from := max(0, at-around)
	if i := strings.IndexByte(text[from:at], ' '); from > 0 && i >= 0 {
		from += i + 1
	}
	return text[from:at], text[at : at+length], cut(text[at+length:], around)
}

// cut shortens a text at a space.
func cut(text string, most int) string {
	if len(text) <= most {
		return text
	}
	if i := strings.LastIndexByte(text[:most], ' '); i > 0 {
		return text[:i] + " …"
	}
	return text
}
