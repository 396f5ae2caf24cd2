//go:build !linux

package app

// shortTurns does nothing: only Linux lets a process ask for short turns.
func shortTurns() {}
