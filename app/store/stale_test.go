package store

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
)

// pathModel is a model of one path of five points.
func pathModel(t *testing.T, s *Store) Model {
	t.Helper()
	doc := model.New("Test pan")
	_, err := doc.AddPart("path")
	require.NoError(t, err)
	for range 2 {
		_, err := doc.AddPoint("parts/p1/outline/points/3")
		require.NoError(t, err)
	}
	m, err := s.CreateModel(t.Context(), doc)
	require.NoError(t, err)
	return m
}

// TestStaleWindows: window A takes points away; window B, which still shows them, changes those
// that it shows, or is told.
func TestStaleWindows(t *testing.T) {
	s := open(t, t.TempDir())
	m := pathModel(t, s)
	a, b := Stamp{Window: "a", Seen: 1}, Stamp{Window: "b", Seen: 1}
	set := func(from Stamp, place, value string) error {
		_, _, err := s.Edit(t.Context(), m.ID, from, []string{place}, func(d *model.Document) error { return d.Set(place, value) })
		return err
	}
	points := func() map[string]string {
		d, err := s.Document(t.Context(), m.ID, 0)
		require.NoError(t, err)
		out := map[string]string{}
		for _, p := range d.Parts[0].Outline.Points {
			out[p.ID] = p.X
		}
		return out
	}
	const at = "parts/p1/outline/points/"
	_, before, err := s.Edit(t.Context(), m.ID, a, []string{at + "1"}, func(d *model.Document) error { return d.RemoveItem(at + "1") })
	require.NoError(t, err)
	assert.Equal(t, 1, before)
	a.Seen = 2
	require.NoError(t, set(b, at+"2/x", "7 mm"), "the same point, though it is the first one now")
	assert.Equal(t, map[string]string{"2": "7 mm", "3": "", "4": "", "5": ""}, points())
	var gone *model.GoneError
	require.ErrorAs(t, set(b, at+"1/x", "9 mm"), &gone)
	// A has not seen what B has written.
	var clash *model.ClashError
	require.ErrorAs(t, set(a, at+"2/x", "8 mm"), &clash)
	assert.Equal(t, []string{"", "7 mm"}, []string{clash.Was, clash.Now})
	assert.Equal(t, "7 mm", points()["2"], "nothing is lost")
	a.Seen = 3
	require.NoError(t, set(a, at+"2/x", "8 mm"))
	require.NoError(t, set(Stamp{}, at+"2/x", "9 mm"), "a script that says nothing is not asked")
	assert.ErrorContains(t, set(Stamp{Seen: 99}, at+"2/x", "1 mm"), "does not have")

	// An undo takes back what another window did, and says so; a window that shows what was
	// taken back is as stale as any.
	move, err := s.Undo(t.Context(), m.ID, b)
	require.NoError(t, err)
	assert.False(t, move.Foreign, "nobody says who made it")
	move, err = s.Undo(t.Context(), m.ID, b)
	require.NoError(t, err)
	assert.True(t, move.Foreign)
	assert.Equal(t, []int{4, 3}, []int{move.Before, move.Model.Head})
	move, err = s.Undo(t.Context(), m.ID, b)
	require.NoError(t, err)
	assert.False(t, move.Foreign, "its own")
	require.ErrorAs(t, set(Stamp{Window: "c", Seen: 5}, at+"2/x", "3 mm"), &clash)
	assert.Equal(t, []string{"9 mm", ""}, []string{clash.Was, clash.Now})
	require.NoError(t, set(Stamp{Window: "c", Seen: 5}, at+"3/x", "3 mm"))
	for _, c := range []struct {
		from, to int
		window   string
		own      bool
	}{{1, 2, "a", true}, {1, 2, "b", false}, {1, 3, "a", false}, {2, 2, "b", true}, {3, 2, "a", false}, {1, 2, "", false}} {
		own, err := s.OwnWork(t.Context(), m.ID, c.from, c.to, c.window)
		require.NoError(t, err)
		assert.Equal(t, c.own, own, "%+v", c)
	}
	// A redo, too.
	_, err = s.Undo(t.Context(), m.ID, b)
	require.NoError(t, err)
	move, err = s.Redo(t.Context(), m.ID, b)
	require.NoError(t, err)
	assert.True(t, move.Foreign)
}

// TestWayBetweenRevisions goes over the revision that both were made from.
func TestWayBetweenRevisions(t *testing.T) {
	s := open(t, t.TempDir())
	m := pathModel(t, s)
	for _, step := range []string{"a", "b", "undo", "c", "d"} {
		var err error
		if step == "undo" {
			_, err = s.Undo(t.Context(), m.ID, Stamp{})
		} else {
			_, _, err = s.Edit(t.Context(), m.ID, Stamp{}, nil, setAim(step))
		}
		require.NoError(t, err)
	}
	// 1 — 2 — 3 (b), and 2 — 4 — 5.
	for _, c := range []struct {
		from, to int
		way      []int
	}{{1, 5, []int{1, 2, 4}}, {3, 5, []int{3, 2, 4}}, {5, 3, []int{5, 4, 2}}, {3, 2, []int{3}}, {2, 5, []int{2, 4}}, {4, 4, []int{}}} {
		got, err := way(t.Context(), s.db, m.ID, c.from, c.to)
		require.NoError(t, err)
		assert.Equal(t, c.way, got, "%d to %d", c.from, c.to)
	}
}

// ball is a closed surface of about 2 n² triangles.
func ball(n int) *model.Surface {
	s := &model.Surface{}
	put := func(x, y, z float64) { s.Points = append(s.Points, x, y, z) }
	put(0, 0, -10)
	for i := 1; i < n; i++ {
		sin, cos := math.Sincos(math.Pi * float64(i) / float64(n))
		for j := range n {
			b, a := math.Sincos(2 * math.Pi * float64(j) / float64(n))
			put(10*sin*a, 10*sin*b, -10*cos)
		}
	}
	put(0, 0, 10)
	at := func(i, j int) int32 { return int32(1 + (i-1)*n + j%n) }
	last := int32(len(s.Points)/3 - 1)
	for j := range n {
		s.Triangles = append(s.Triangles, 0, at(1, j+1), at(1, j))
		for i := 1; i < n-1; i++ {
			s.Triangles = append(s.Triangles, at(i, j), at(i, j+1), at(i+1, j), at(i, j+1), at(i+1, j+1), at(i+1, j))
		}
		s.Triangles = append(s.Triangles, at(n-1, j), at(n-1, j+1), last)
	}
	return s
}

// TestSurfacesAreStoredOnce: sixty edits of a model with a surface keep one copy of it, and every
// revision has it.
func TestSurfacesAreStoredOnce(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	doc := model.New("Lump")
	doc.Parts = []model.Part{{ID: "p1", Name: "lump", Role: model.Solved, Outline: model.Outline{Kind: "surface"}, Surface: ball(60)}}
	m, err := s.CreateModel(t.Context(), doc)
	require.NoError(t, err)
	count := func(table string) (n int64) {
		require.NoError(t, s.db.Table(table).Count(&n).Error)
		return n
	}
	for i := range 60 {
		_, _, err := s.Edit(t.Context(), m.ID, Stamp{}, nil, func(d *model.Document) error { return d.Set("mesh/size", string(rune('1'+i%9))+" mm") })
		require.NoError(t, err)
	}
	assert.Equal(t, int64(1), count("surfaces"))
	assert.Greater(t, count("revision_surfaces"), int64(50))
	var text int64
	require.NoError(t, s.db.Raw("SELECT SUM(LENGTH(document)) FROM revisions").Scan(&text).Error)
	assert.Less(t, text, int64(60_000))
	require.NoError(t, s.Close())

	s = open(t, dir)
	for _, number := range []int{1, 30, 0} {
		d, err := s.Document(t.Context(), m.ID, number)
		require.NoError(t, err)
		assert.Equal(t, doc.Parts[0].Surface.Points, d.Parts[0].Surface.Points)
		assert.Equal(t, doc.Parts[0].Surface.Triangles, d.Parts[0].Surface.Triangles)
	}
	// A damaged surface is said, and never drawn.
	require.NoError(t, s.db.Exec("UPDATE surfaces SET data = zeroblob(100)").Error)
	s.surfaces = surfaceCache{}
	_, err = s.Document(t.Context(), m.ID, 0)
	assert.ErrorContains(t, err, "the lump: the surface")
}

// TestOlderRevisionsArePacked: revisions that hold their surfaces in their text, as older versions
// of the program wrote them, are the same afterwards, in a fraction of the room.
func TestOlderRevisionsArePacked(t *testing.T) {
	s := open(t, t.TempDir())
	doc := model.New("Lump")
	doc.Parts = []model.Part{{ID: "p1", Name: "lump", Role: model.Solved, Outline: model.Outline{Kind: "surface"}, Surface: ball(60)}}
	m, err := s.CreateModel(t.Context(), model.New("Lump"))
	require.NoError(t, err)
	for n := 2; n < 30; n++ {
		require.NoError(t, s.db.Create(&Revision{ModelID: m.ID, Number: n, Parent: n - 1, Document: string(doc.Bytes())}).Error)
	}
	require.NoError(t, s.db.Create(&Revision{ModelID: m.ID, Number: 30, Parent: 29, Document: `{"triangles" is no model`}).Error)
	require.NoError(t, s.db.Model(&Model{}).Where("id = ?", m.ID).Update("head", 29).Error)
	said, err := s.Tidy(t.Context())
	require.NoError(t, err)
	assert.Contains(t, said, "stored apart now: 28")
	assert.Contains(t, said, "given back to the disk")
	for _, n := range []int{2, 29} {
		now, err := s.Document(t.Context(), m.ID, n)
		require.NoError(t, err)
		assert.Equal(t, string(doc.Bytes()), string(now.Bytes()))
	}
	again, err := s.packOlder(t.Context())
	require.NoError(t, err)
	assert.Zero(t, again)
}

// TestModelsTooLargeForAFile are not made, so that what can be exported can be imported.
func TestModelsTooLargeForAFile(t *testing.T) {
	s := open(t, t.TempDir())
	doc := model.New("Lumps")
	surface := ball(170) // 57,000 triangles, about 4 MB in a file
	m, err := s.CreateModel(t.Context(), doc)
	require.NoError(t, err)
	add := func(n int) error {
		_, _, err := s.Edit(t.Context(), m.ID, Stamp{}, nil, func(d *model.Document) error {
			for range n {
				d.Parts = append(d.Parts, model.Part{ID: "p" + string(rune('A'+len(d.Parts))), Name: "lump", Role: model.Solved, Outline: model.Outline{Kind: "surface"}, Surface: surface})
			}
			return nil
		})
		return err
	}
	require.NoError(t, add(2))
	var refused *RefusedError
	require.ErrorAs(t, add(25), &refused)
	assert.ErrorContains(t, refused, "64 MB are the most")
	d, err := s.Document(t.Context(), m.ID, 0)
	require.NoError(t, err)
	assert.Len(t, d.Parts, 2)
	back, err := model.Parse(d.Bytes())
	require.NoError(t, err)
	assert.Equal(t, d.Parts[1].Surface.Triangles, back.Parts[1].Surface.Triangles)
}
