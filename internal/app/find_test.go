package app_test

import (
	"net/url"
	"testing"
)

// phrases are what people say, with the first thing that they want to find in the demo's rig, and on which device.
var phrases = []struct{ words, title, device string }{
	{"cam 2 on air", "Put Telescope feed on program", "Dome switcher"},
	{"go live", "Start the stream", "Stream PC"},
	{"mute imke", "Mute Imke", "Sound desk"},
	{"bug", "Switch Logo on", "Dome switcher"},
	{"holding slide", "Show Back soon", "Stream PC"},
	{"safe", "Safe", "Synaptor"},
	{"mute everyone", "Mute all lines", "Talkback"},
	{"start recording", "Start the recording", "Stream PC"},
	{"back to the cameras", "Put Presenter cam on program", "Dome switcher"},
	{"take telescope", "Show Telescope", "Stream PC"},
	{"telescope on air", "Show Telescope", "Stream PC"},
	{"camera 1", "Put Presenter cam on program", "Dome switcher"},
	{"cam 3 next", "Put All-sky cam on preview", "Dome switcher"},
	{"guest cam preview", "Put Guest cam on preview", "Dome switcher"},
	{"all-sky on program", "Put All-sky cam on program", "Dome switcher"},
	{"slides on air", "Put Slides on program", "Dome switcher"},
	{"put the replay on air", "Put Replay on program", "Dome switcher"},
	{"preview slides", "Put Slides on preview", "Dome switcher"},
	{"ready camera 4", "Put Guest cam on preview", "Dome switcher"},
	{"cut", "Cut", "Dome switcher"},
	{"take", "Cut", "Dome switcher"},
	{"auto", "Auto", "Dome switcher"},
	{"dissolve", "Auto", "Dome switcher"},
	{"wipe", "Set the transition to wipe", "Dome switcher"},
	{"logo on", "Switch Logo on", "Dome switcher"},
	{"show the logo", "Switch Logo on", "Dome switcher"},
	{"hide logo", "Switch Logo off", "Dome switcher"},
	{"caption off", "Switch Caption off", "Dome switcher"},
	{"toggle caption", "Switch Caption on or off", "Dome switcher"},
	{"slides to the foyer", "Route Slides to Foyer screen", "Dome switcher"},
	{"foyer slides", "Route Slides to Foyer screen", "Dome switcher"},
	{"telescope on the projector", "Route Telescope feed to Dome projector", "Dome switcher"},
	{"black on the foyer screen", "Route Black to Foyer screen", "Dome switcher"},
	{"picture in picture", "Picture in picture on", "Dome switcher"},
	{"picture in picture off", "Picture in picture off", "Dome switcher"},
	{"pip top left", "Picture in picture at the top left", "Dome switcher"},
	{"program row", "Program row", "Dome switcher"},
	{"preview row", "Preview row", "Dome switcher"},
	{"foyer row", "Row for Foyer screen", "Dome switcher"},
	{"keyers", "Downstream keyers", "Dome switcher"},
	{"memory 1", "Recall memory 1", "Dome switcher"},
	{"transition 50 frames", "Set the transition to 50 frames", "Dome switcher"},
	{"cut mix effect 2", "Cut mix effect 2", "Dome switcher"},
	{"black on air", "Put Black on program", "Dome switcher"},
	{"bars", "Put Bars on program", "Dome switcher"},
	{"unmute imke", "Open Imke", "Sound desk"},
	{"open imke's microphone", "Open Imke", "Sound desk"},
	{"imke off", "Mute Imke", "Sound desk"},
	{"mute music", "Mute Music", "Sound desk"},
	{"music -12", "Set Music to -12 dB", "Sound desk"},
	{"music louder", "Set Music to 0 dB", "Sound desk"},
	{"guest 2 open", "Open Guest 2", "Sound desk"},
	{"mute guest 1", "Mute Guest 1", "Sound desk"},
	{"main fader", "Set the main level to 0 dB", "Sound desk"},
	{"master -6", "Set the main level to -6 dB", "Sound desk"},
	{"solo guest 1", "Cue Guest 1", "Sound desk"},
	{"listen to guest 2", "Cue Guest 2", "Sound desk"},
	{"play track 2", "Play track 2", "Sound desk"},
	{"stop the music", "Pause the music", "Record shelf"},
	{"channel strips", "Channel strips", "Sound desk"},
	{"mics row", "Channel row", "Sound desk"},
	{"countdown", "Show Countdown", "Stream PC"},
	{"countdown scene", "Show Countdown", "Stream PC"},
	{"telescope scene", "Show Telescope", "Stream PC"},
	{"show sky map", "Show Sky map", "Stream PC"},
	{"guest corner", "Show Guest corner", "Stream PC"},
	{"good night", "Run Good night", "Synaptor"},
	{"back soon", "Show Back soon", "Stream PC"},
	{"scope presenter", "Show Scope + presenter", "Stream PC"},
	{"lower third", "Show Lower third of Countdown", "Stream PC"},
	{"show lower third", "Show Lower third of Countdown", "Stream PC"},
	{"hide lower third", "Hide Lower third of Countdown", "Stream PC"},
	{"chat wall on", "Show Chat wall of Countdown", "Stream PC"},
	{"end the stream", "Stop the stream", "Stream PC"},
	{"stop streaming", "Stop the stream", "Stream PC"},
	{"stream on air", "Start the stream", "Stream PC"},
	{"broadcast", "Start the stream", "Stream PC"},
	{"stop recording", "Stop the recording", "Stream PC"},
	{"record", "Start the recording", "Stream PC"},
	{"start look-back", "Start the look-back", "Stream PC"},
	{"save the last moments", "Save the look-back", "Stream PC"},
	{"keep the last moments", "Save the look-back", "Stream PC"},
	{"night tint", "Switch Night tint on", "Stream PC"},
	{"soft focus off", "Switch Soft focus off", "Stream PC"},
	{"load sound check", "Load Sound check", "Stream PC"},
	{"fade", "Set the transition to fade", "Stream PC"},
	{"talk to oyelaran", "Call Oyelaran", "Talkback"},
	{"talk production", "Talk to Production", "Talkback"},
	{"stop talking production", "Stop talking to Production", "Talkback"},
	{"talk to foyer", "Talk to Foyer", "Talkback"},
	{"listen foyer", "Listen to Foyer", "Talkback"},
	{"call the desk", "Call Desk", "Talkback"},
	{"call saskia", "Call Saskia", "Talkback"},
	{"buzz oyelaran", "Call Oyelaran", "Talkback"},
	{"desk lamps down", "Change Desk lamps by -10 %", "Dome lights"},
	{"desk lamps on", "Switch Desk lamps on", "Dome lights"},
	{"lights off red walkway", "Switch Red walkway off", "Dome lights"},
	{"red walkway 40", "Set Red walkway to 40 %", "Dome lights"},
	{"dim desk lamps", "Set Desk lamps to 50 %", "Dome lights"},
	{"key light left on", "Switch Presenter key left on", "Dome lights"},
	{"lectern", "Move to Lectern", "Dome camera"},
	{"camera to the door", "Move to Door", "Dome camera"},
	{"eyepiece preset", "Move to Eyepiece", "Dome camera"},
	{"wide dome", "Move to Wide dome", "Dome camera"},
	{"stop the camera", "Stop the head", "Dome camera"},
	{"camera brighter", "Change the brightness by 5 %", "Dome camera"},
	{"shutter 1/50", "Exposure 1/50", "Dome camera"},
	{"play clip", "Play", "Replay player"},
	{"slow pan", "Load Slow pan", "Replay player"},
	{"one frame back", "Jog by -1 frames", "Replay player"},
	{"back one second", "Jog by -1 s", "Replay player"},
	{"set in", "Set the in point", "Replay player"},
	{"set out point", "Set the out point", "Replay player"},
	{"slow motion", "Play at 50 %", "Replay player"},
	{"pause replay", "Pause", "Replay player"},
	{"say hello", "Say “hello”", "Audience"},
	{"mark a clip", "Mark a clip", "Audience"},
	{"highlight", "Mark a clip", "Audience"},
	{"meteor", "Run Meteor!", "Synaptor"},
	{"run meteor", "Run Meteor!", "Synaptor"},
	{"guest joins", "Run Guest joins", "Synaptor"},
	{"clouds", "Run Clouds rolled in", "Synaptor"},
	{"surprise sound", "Run Surprise sound", "Synaptor"},
	{"go home", "Go to Home", "Synaptor"},
	{"go to cut page", "Go to Cut", "Synaptor"},
	{"page stream", "Go to Stream", "Synaptor"},
	{"next page", "Next page", "Synaptor"},
	{"stop everything", "Halt all runs", "Synaptor"},
	{"panic", "Halt all runs", "Synaptor"},
	{"undo", "Put back the last press", "Synaptor"},
	{"profile sound check", "Profile Sound check", "Synaptor"},
	{"computer volume 40", "Set the volume to 40 %", "Workstation"},
	{"mute the computer", "Mute the computer", "Workstation"},
	{"next track", "Next track", "Workstation"},
	{"owl", "Play Owl", "Workstation"},
	{"sources of presenter", "Sources of Presenter", "Stream PC"},
	{"scenes meteor", "Scenes of Meteor Night", "Stream PC"},
	{"sound inputs kit", "Sound inputs", "Stream PC"},
	{"stream record", "Stream, record and look-back", "Stream PC"},
	{"cue row", "Cue row", "Sound desk"},
	{"talk row", "Talk keys", "Talkback"},
	{"lamps row", "Lamps", "Dome lights"},
}

// TestAPhraseFindsFirstWhatIsMeant over the whole rig of the demo.
func TestAPhraseFindsFirstWhatIsMeant(t *testing.T) {
	r := start(t)
	for _, id := range []string{"stream-pc", "dome-switcher", "sound-desk", "talkback", "dome-lights", "dome-camera", "replay-player", "audience", "workstation"} {
		r.connected(id)
	}
	type found struct{ Title, DeviceName string }
	first := func(words string) (found, int) {
		var list []found
		r.must(200, "GET", "/api/v1/find?q="+url.QueryEscape(words), nil, &list)
		if len(list) == 0 {
			return found{}, 0
		}
		return list[0], len(list)
	}
	r.eventually("all names are known", func() bool { f, _ := first("lower third"); return f.Title != "" })
	for _, p := range phrases {
		if got, _ := first(p.words); got != (found{p.title, p.device}) {
			t.Errorf("%q finds %q of %s, want %q of %s", p.words, got.Title, got.DeviceName, p.title, p.device)
		}
	}
	if len(phrases) < 120 {
		t.Errorf("%d phrases", len(phrases))
	}
	if _, n := first("espresso"); n > 0 {
		t.Error("espresso finds something")
	}
}
