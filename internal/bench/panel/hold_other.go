//go:build !unix

package panel

// hold does nothing on this system: the port is free until it is listened on
// again.
func hold(string) (release func()) { return func() {} }
