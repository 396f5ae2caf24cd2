package access

import "slices"

// Role is what somebody may do.
type Role string

// The roles; each may do what those after it may.
const (
	Owner    Role = "owner"    // everything; the only one who sees people, tokens and addresses
	Editor   Role = "editor"   // changes the show
	Operator Role = "operator" // presses controllers
	Viewer   Role = "viewer"   // sees, and presses nothing
	Nobody   Role = ""         // has not signed in
)

var roles = []Role{Owner, Editor, Operator, Viewer, Nobody}

// Valid tells whether a role can be given to somebody.
func (r Role) Valid() bool { return r != Nobody && slices.Contains(roles, r) }

// May tells whether a role may do what takes at least another.
func (r Role) May(least Role) bool {
	i, j := slices.Index(roles, r), slices.Index(roles, least)
	return i >= 0 && j >= 0 && i <= j
}
