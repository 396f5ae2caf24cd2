package slides

// name of the talk, and its slides with their notes.
const name = "Why meteors burn"

var talk = [][2]string{
	{"Why meteors burn", "Wait for the lights. Thank the volunteers."},
	{"A grain of sand", "Hold up the jar."},
	{"Forty kilometres a second", "Faster than any plane, count to one."},
	{"Where they come from", "A comet passes, its dust stays."},
	{"The path of the comet", "Point at the crossing."},
	{"Every August", "The same dust, the same nights."},
	{"The radiant", "Rails that meet far away."},
	{"Perseus rises", "Switch to the sky map for a moment."},
	{"Air in front of it", "Not friction: the air cannot get away."},
	{"Ten thousand degrees", "Hotter than the face of the sun."},
	{"Colours", "Each colour is a metal."},
	{"Green: magnesium", "And a little nickel."},
	{"Yellow: sodium", "As a street lamp."},
	{"Red: the air itself", "Nitrogen and oxygen."},
	{"A train that stays", "Seconds, rarely minutes."},
	{"Fireballs", "Brighter than Venus. Play the clip."},
	{"Sound, minutes later", "Only of the largest."},
	{"How many an hour", "Ask the room to guess."},
	{"What the moon does", "Tonight it sets at eleven."},
	{"How to look", "Lie down. No telescope."},
	{"How to take a picture", "Wide, long, and patience."},
	{"Count with us", "Show the counter."},
	{"Thanks", "Volunteers, then donors."},
	{"Questions", "Leave this one on."},
}
