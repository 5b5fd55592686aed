// Package examples holds the demo models: devices of Marram Point, a made-up
// small sea-salt works.
package examples

import (
	"embed"
	"fmt"

	"saltkettle/core/model"
)

//go:embed *.kettle.json
var files embed.FS

// Example is a demo model.
type Example struct {
	Key   string
	About string
	// Long says that its run takes so long that it waits for somebody to ask for it.
	Long bool
}

// List is the demo models in the order of the shelf.
var List = []Example{
	{Key: "pan-floor", About: "heater rods under a crystallising pan: how even is the heat?"},
	{Key: "electrode-lead", About: "a lead clamped to a brine electrode: how warm does the clamp get?"},
	{Key: "dew-sampler", About: "a plate that condenses dew: which current makes it coldest?"},
	{Key: "drying-cabinet", About: "salt on shelves over a heater plate: what comes as radiation?"},
	{Key: "sample-dryer", About: "samples on shelves in a draught: what do fan, warm air and radiation do?", Long: true},
	{Key: "bittern-post", About: "a post that carries a hot pan: how much heat reaches its foot?"},
	{Key: "store-bank", About: "battery cells on a cooled tray: do all of them stay cool?"},
	{Key: "rack-manifold", About: "air of three blowers: do five racks get alike?", Long: true},
	{Key: "yard-shade", About: "a shade panel in the wind: how far does it lift, does the salt lie calm?", Long: true},
	{Key: "lid-latch", About: "a pot magnet and its keeper: pull over the gap, iron that saturates, open space round it"},
	{Key: "lid-latch-solid", About: "a quarter of the same latch in space: does it pull as its section says?", Long: true},
	{Key: "turning-latch", About: "a bar over two magnets: how hard do they turn it back when it stands askew?", Long: true},
	{Key: "induction-kettle", About: "a coil under the base of a kettle: how deep do its currents go, and where is the heat?", Long: true},
	{Key: "sluice-rod", About: "a soft rod behind a sluice gate: how far does the jet bend it?", Long: true},
	{Key: "brine-line", About: "a header tank, a main with a gate valve and three pans: how alike do they fill?"},
	{Key: "rake-shoe", About: "a shoe under a rake: how far does its sole give?"},
	{Key: "sounder-plate", About: "a thin plate under brine: at which tones does it swing, there, in air and in vacuum?", Long: true},
	{Key: "exhaust-box", About: "a box that keeps back the sound of a blower: how much, at which tones?"},
	{Key: "rib-passage", About: "brine between two hot ribs: how much heat for how much pressure?"},
	{Key: "dosing-junction", About: "potash and borate meet in a narrow channel: how far until they are mixed?", Long: true},
	{Key: "brine-block", About: "brine through four legs under two heating strips: do they share alike?", Long: true},
	{Key: "grate-bar", About: "an air-cooled bar over a fire: how far does it bow, how hard is it stressed?", Long: true},
}

// Load reads a demo model.
func Load(key string) (*model.Document, error) {
	data, err := files.ReadFile(key + ".kettle.json")
	if err != nil {
		return nil, fmt.Errorf("there is no demo model %q", key)
	}
	return model.Parse(data)
}
