// Package reflex is what makes a reflex fire: whether a reading has done what one waits for (Watch), when a time of day comes (Schedule), how often it
// may (Gate), which row of its table counts (Table), when it is to be stopped (Breaker), and what becomes of an event by all of that (Case). Holding is
// what a reading is held at while reflexes follow a condition. It is told the time and has no clock of its own.
package reflex

// What starts a reflex.
const (
	OnReading  = "reading"  // a reading does something: see the edges
	OnLink     = "link"     // a device's link comes or goes
	OnDevice   = "device"   // a device's own event, such as a message
	OnGesture  = "gesture"  // a hand does something to a control, whether it is mapped or not
	OnSignal   = "signal"   // a signal is sent, by the network, a key or a macro
	OnMacro    = "macro"    // a macro begins or ends
	OnSchedule = "schedule" // a time of day, a date, a recurrence
	OnTimecode = "timecode" // time code passes a point
	OnPanel    = "panel"    // a panel is paired, or lost
	OnStart    = "start"    // Synaptor has started
	OnWhile    = "while"    // it follows its condition: it holds something while that is so
)

// Kinds lists what can start a reflex.
var Kinds = []string{OnReading, OnLink, OnDevice, OnGesture, OnSignal, OnMacro, OnSchedule, OnTimecode, OnPanel, OnStart, OnWhile}

// Brings has, by kind, the fields that an event brings along; what a device's own event brings is in its sheet, and a signal may bring more.
var Brings = map[string][]string{
	OnReading: {"value", "was"}, OnLink: {"device"}, OnGesture: {"control", "gesture", "amount", "who"}, OnSignal: {"value", "who", "signal"}, OnMacro: {"macro", "who", "reason"},
	OnSchedule: {"at"}, OnTimecode: {"timecode"}, OnPanel: {"panel"}, OnStart: {"clean"},
}

// Offered tells whether an event of a kind is offered and not acted on after an unclean end: nobody knows what was left half done.
func Offered(kind string) bool { return kind == OnStart || kind == OnLink }
