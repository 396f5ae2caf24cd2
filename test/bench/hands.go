package main

import (
	"fmt"
	"os"
	"time"

	"synaptor/internal/bench/touch"
	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

// addHands attaches a keyboard and a row of pads to the controller: their first six keys are its first row.
func addHands(d *show.Draft) {
	keys := &show.Link{ID: "hands-keys", Controller: "g", Kind: show.LinkKeysHost, Match: "Numeric block", Position: 100}
	pads := &show.Link{ID: "hands-pads", Controller: "g", Kind: show.LinkMIDIHost, Match: "Fader row", Position: 101}
	for i := range 6 {
		keys.Bindings = append(keys.Bindings, show.Binding{Source: fmt.Sprintf("KEY_F%d", 13+i), Control: device.CellID(i, 0), As: show.AsKey})
		pads.Bindings = append(pads.Bindings, show.Binding{Source: fmt.Sprintf("note 1 %d", 36+i), Control: device.CellID(i, 0), As: show.AsKey})
	}
	d.Put(keys)
	d.Put(pads)
}

// layOut puts a keyboard and a row of pads into a folder; the caller removes that, and closes them.
func layOut() (folder string, keys, pads *touch.Stand, err error) {
	if folder, err = touch.Folder(); err != nil {
		return "", nil, nil, err
	}
	none := func() {}
	if keys, err = touch.NumericBlock(folder, none); err == nil {
		pads, err = touch.FaderRow(folder, none)
	}
	if err != nil {
		_ = os.RemoveAll(folder)
	}
	return folder, keys, pads, err
}

// byHand measures keys of an input device, through a pipe, and pads by MIDI, through a pseudo-terminal, each beside the floor, and OSC
// beside both.
func byHand(dev *child, oscIn, relayAddr string, keys, pads *touch.Stand) error {
	touches := func(on *touch.Stand, name string, first int) func(string) error {
		return func(control string) error {
			of := device.Message{Address: fmt.Sprintf("/%s%d", name, first+int(control[0]-'a')), Args: []any{"down"}}
			time.AfterFunc(pace/2, func() { _ = on.Operate(device.Message{Address: of.Address, Args: []any{"up"}}) }) // it is there until the end
			return on.Operate(of)
		}
	}
	for _, way := range []struct {
		title string
		press func(string) error
	}{{"by keys of an input device", touches(keys, "KEY_F", 13)}, {"by pads of MIDI", touches(pads, "pad", 1)}} {
		fmt.Println(way.title)
		ours, bare, err := pressed(dev, way.press, relayAddr)
		if err != nil {
			return err
		}
		report(ours, bare)
	}
	fmt.Println("by OSC, beside both")
	ours, bare, err := inputs(dev, oscIn, relayAddr)
	if err != nil {
		return err
	}
	report(ours, bare)
	return nil
}
