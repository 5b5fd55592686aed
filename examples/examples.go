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
}

// List is the demo models in the order of the shelf.
var List = []Example{
	{"pan-floor", "heater rods under a crystallising pan: how even is the heat?"},
	{"electrode-lead", "a lead clamped to a brine electrode: how warm does the clamp get?"},
	{"dew-sampler", "a plate that condenses dew: which current makes it coldest?"},
	{"drying-cabinet", "salt on shelves over a heater plate: what comes as radiation?"},
	{"bittern-post", "a post that carries a hot pan: how much heat reaches its foot?"},
	{"store-bank", "battery cells on a cooled tray: do all of them stay cool?"},
	{"rack-manifold", "air of three blowers shared between racks, as a shape with its mesh"},
	{"yard-shade", "a shade panel in the wind, as a shape with its mesh"},
	{"lid-latch", "a pot magnet and its keeper, as a shape with its mesh"},
	{"sluice-rod", "a rod behind a sluice gate, as a shape with its mesh"},
	{"rib-passage", "brine between two hot ribs: how much heat for how much pressure?"},
	{"dosing-junction", "potash and borate meet in a narrow channel: how far until they are mixed?"},
	{"brine-block", "brine through four legs under two heating strips: do they share alike?"},
	{"grate-bar", "a slotted bar under a fire: how hot does its foot become?"},
}

// Load reads a demo model.
func Load(key string) (*model.Document, error) {
	data, err := files.ReadFile(key + ".kettle.json")
	if err != nil {
		return nil, fmt.Errorf("there is no demo model %q", key)
	}
	return model.Parse(data)
}
