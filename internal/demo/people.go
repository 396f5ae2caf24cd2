package demo

// Person is somebody of the demo, or a panel, for whoever opens it to a network.
type Person struct {
	Name, Role string
	Panel      bool
	// Controllers are the ids of those that an operator presses; Changes what these may change, as rights name it. Nil: everything.
	Controllers, Changes []string
}

// People are those of the night. None of them has a passphrase: Tobin sets the first one, and invites the others.
func People() []Person {
	return []Person{
		{Name: "Tobin", Role: "owner"},
		{Name: "Imke", Role: "operator", Controllers: []string{"scope-console"}, Changes: []string{"talkback:line/*/talk"}},
		{Name: "Oyelaran", Role: "operator", Controllers: []string{"scope-console"}, Changes: []string{"talkback:line/2/*"}},
		{Name: "Saskia's tablet", Role: "operator", Panel: true, Controllers: []string{"saskias-tablet"}, Changes: []string{"dome-switcher:out/2/*", "sound-desk:channel/2/*", "sound-desk:channel/3/*"}},
	}
}
