//go:build !linux

package background

// giveWay does nothing: only Linux has threads of one process that are preferred less than others.
func giveWay() {}
