package help

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/physics"
	"saltkettle/core/sentence"
	"saltkettle/docs"
)

func book(t *testing.T) *Book {
	t.Helper()
	b, err := Load(docs.Files)
	require.NoError(t, err)
	return b
}

// TestPagesAreWholeAndLinked: every document is there with headings and tables, and no link between
// them leads nowhere.
func TestPagesAreWholeAndLinked(t *testing.T) {
	b := book(t)
	require.Len(t, b.Pages, len(order))
	places := map[string]bool{"/help/" + Schema: true}
	for _, p := range b.Pages {
		assert.NotEqual(t, p.Key, p.Title, "a document begins with its title")
		places["/help/"+p.Key] = true
		for _, s := range p.Sections {
			assert.False(t, places[s.Address()], "%s is there twice", s.Address())
			places[s.Address()] = true
			assert.Contains(t, string(p.Body), `id="`+s.ID+`"`)
		}
		assert.NotContains(t, string(p.Body), "<!-- raw HTML omitted -->", p.Key)
	}
	guide, _ := b.Page("guide")
	materials, _ := b.Page("validation")
	assert.Contains(t, string(materials.Body), "<table>")
	for _, p := range b.Pages {
		for _, m := range regexp.MustCompile(`href="([^"]+)"`).FindAllStringSubmatch(string(p.Body), -1) {
			link := m[1]
			if strings.HasPrefix(link, "#") {
				link = "/help/" + p.Key + link
			}
			if strings.HasPrefix(link, "http") {
				continue
			}
			assert.True(t, places[link], "%s leads to %s, which is not there", p.Key, link)
		}
	}
	_, ok := b.Page("nothing")
	assert.False(t, ok)
	assert.NotEmpty(t, guide.Sections)
}

// TestParagraphsAreFound: by words of their headings first, by beginnings of words, by all words of a
// question, with what stands around them.
func TestParagraphsAreFound(t *testing.T) {
	b := book(t)
	for question, want := range map[string]string{"plates": "/help/guide#the-plates-key-2", "keeping data": "/help/guide#keeping-the-data", "several WINDOWS": "/help/guide#several-windows", "undo": "/help/guide#undo"} {
		found := b.Search(question, 5)
		require.NotEmpty(t, found, question)
		assert.Equal(t, want, found[0].Address(), question)
		assert.LessOrEqual(t, len(found), 5)
	}
	f := b.Search("view factors", 20)
	require.NotEmpty(t, f)
	for _, x := range f {
		assert.Subset(t, strings.Split(strings.Join(x.words, "\n"), "\n"), []string{"view"}, x.Heading)
	}
	assert.Empty(t, b.Search("zzzunheardof", 5))
	assert.Empty(t, b.Search(" .,; ", 5))
}

// TestEveryKindOfSentenceHasAParagraph: sentences lead to it.
func TestEveryKindOfSentenceHasAParagraph(t *testing.T) {
	b := book(t)
	for _, kind := range append(physics.Catalog().Group(sentence.Condition), physics.Catalog().Group(sentence.Reading)...) {
		s, ok := b.About(kind.Key)
		assert.True(t, ok, kind.Key)
		assert.NotEmpty(t, s.text, kind.Key)
	}
	_, ok := b.About("heat.magic")
	assert.False(t, ok)
}

func TestExcerpts(t *testing.T) {
	before, match, after := excerpt("the brine is warm and the pan is hot", []string{"pan", "hot"})
	assert.Equal(t, []string{"the brine is warm and the ", "pan", " is hot"}, []string{before, match, after})
	before, match, _ = excerpt(strings.Repeat("salt ", 100), []string{"pan"})
	assert.Empty(t, match)
	assert.True(t, strings.HasSuffix(before, " …"))
	long := strings.Repeat("salt ", 100)
	before, match, after = excerpt(long+"kettle "+long, []string{"kettle"})
	assert.Equal(t, "kettle", match)
	assert.Less(t, len(before)+len(after), 2*around+10)
}
